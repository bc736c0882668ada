import { Button, Modal } from '@mantine/core';
import { useState } from 'react';
import type { Delivery } from '../../api/client';
import { askDelivery } from '../../api/deliveries';
import { deliveryTouched, useAsk } from '../../api/queries';
import { sayAll } from '../../words/messages';
import { t } from '../../words/words';

/** A delivery that does not go on by itself: why, and what can be done about it. */
export function Halted({ delivery, mayEdit }: { delivery: Delivery; mayEdit: boolean }) {
  const close = useAsk((id: number) => askDelivery.close(id, true), deliveryTouched);
  const resume = useAsk(askDelivery.resume, deliveryTouched);
  const reopen = useAsk(askDelivery.reopen, deliveryTouched);
  const remove = useAsk(askDelivery.remove, deliveryTouched);
  const [asking, setAsking] = useState(false);
  const { id, state } = delivery;
  if (state !== 'open' && state !== 'stopped' && state !== 'failed') return null;
  return (
    <div className="notice row">
      <span className="grow">{why(delivery)}</span>
      {mayEdit && (
        <>
          {state === 'open' && delivery.uploads > 0 && (
            <Button size="xs" onClick={() => close.mutate(id)}>
              {t('gather.take_in')}
            </Button>
          )}
          {state !== 'open' && (
            <Button size="xs" onClick={() => resume.mutate(id)}>
              {t('gather.resume')}
            </Button>
          )}
          {state === 'failed' && (
            <Button size="xs" onClick={() => reopen.mutate(id)}>
              {t('gather.send_again')}
            </Button>
          )}
          <Button size="xs" onClick={() => setAsking(true)}>
            {t('gather.remove')}
          </Button>
        </>
      )}
      <Modal
        opened={asking}
        onClose={() => setAsking(false)}
        title={t('gather.remove_ask')}
        closeButtonProps={{ 'aria-label': t('page.close') }}
      >
        <p>{t('gather.remove_what', { title: delivery.title, size: delivery.uploadBytes })}</p>
        <div className="row answers">
          <span className="grow" />
          <Button onClick={() => setAsking(false)} data-autofocus>
            {t('gather.keep')}
          </Button>
          <Button
            className="go"
            onClick={() => {
              setAsking(false);
              remove.mutate(id);
            }}
          >
            {t('gather.do_remove')}
          </Button>
        </div>
      </Modal>
    </div>
  );
}

function why({ state, notes, lines, uploads }: Delivery): string {
  const note = sayAll(notes);
  if (state === 'failed') return t('gather.failed', { why: note });
  if (state === 'stopped') return t('gather.stopped', { count: lines });
  if (note) return note;
  if (uploads === 0) return t('gather.not_sent');
  return t('gather.ended_early', { count: uploads });
}
