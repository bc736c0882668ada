import { Button, Modal } from '@mantine/core';
import { askChannel, type Channel, channelTouched } from '../../api/channels';
import { useAskOnce } from '../../api/queries';
import { t } from '../../words/words';

/** Asks before a channel ends. */
export function RemoveChannel(p: { channel: Channel; onClose: () => void; onRemoved: () => void }) {
  const remove = useAskOnce(() => askChannel.remove(p.channel.id), channelTouched);
  return (
    <Modal
      opened
      onClose={p.onClose}
      title={t('publish.remove_title', { name: p.channel.name })}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <p>{t('publish.remove_what')}</p>
      <div className="row answers">
        <span className="grow" />
        <Button onClick={p.onClose}>{t('page.keep')}</Button>
        <Button
          className="go"
          loading={remove.isPending}
          onClick={() =>
            remove.mutate(undefined, {
              onSuccess: () => {
                p.onClose();
                p.onRemoved();
              },
            })
          }
        >
          {t('publish.do_remove')}
        </Button>
      </div>
    </Modal>
  );
}
