import { Button, Modal, Select, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useArrived } from '../../api/hand';
import { useDeliveries } from '../../api/pages';
import { PickGrid } from '../../ui/PickGrid';
import { t } from '../../words/words';

interface Props {
  title: string;
  /** Whether one picture alone is meant. */
  one?: boolean;
  onClose: () => void;
  onPick: (shas: string[]) => void;
}

/** Picks pictures out of all that are here, or out of one delivery. */
export function PicturePicker({ title, one, onClose, onPick }: Props) {
  const [text, setText] = useState('');
  const [q] = useDebouncedValue(text, 200);
  const [delivery, setDelivery] = useState(0);
  const [picked, setPicked] = useState<string[]>([]);
  const deliveries = useDeliveries({ closed: 'all' }).all ?? [];
  const { all, more, busy } = useArrived(q, delivery);
  const toggle = (sha: string) =>
    setPicked((was) => (was.includes(sha) ? was.filter((s) => s !== sha) : one ? [sha] : [...was, sha]));
  return (
    <Modal opened onClose={onClose} title={title} size="xl" closeButtonProps={{ 'aria-label': t('page.close') }}>
      <div className="row fields">
        <TextInput
          className="grow"
          data-autofocus
          label={t('hand.find_picture')}
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
        />
        <Select
          label={t('hand.delivery')}
          data={[
            { value: '0', label: t('hand.any_delivery') },
            ...deliveries.map((d) => ({ value: String(d.id), label: d.title })),
          ]}
          value={String(delivery)}
          allowDeselect={false}
          searchable
          onChange={(d) => setDelivery(Number(d))}
        />
      </div>
      <PickGrid
        label={t('hand.found_pictures')}
        pictures={all ?? []}
        isPicked={(p) => picked.includes(p.sha)}
        onPick={(p) => toggle(p.sha)}
      />
      {all?.length === 0 && <p className="soft">{t('hand.no_picture')}</p>}
      <div className="row answers">
        {more && (
          <Button loading={busy} onClick={more}>
            {t('hand.more_pictures')}
          </Button>
        )}
        <span className="grow" />
        <Button onClick={onClose}>{t('page.keep')}</Button>
        <Button className="go" disabled={picked.length === 0} onClick={() => onPick(picked)}>
          {t('hand.take', { count: picked.length })}
        </Button>
      </div>
    </Modal>
  );
}
