import { Button, Checkbox, Modal, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { type PictureAct, type PictureCard, usePictures } from '../../api/gallery';
import { PickGrid } from '../../ui/PickGrid';
import { t } from '../../words/words';

interface Props {
  ids: number[];
  lines: PictureCard[];
  onPlan: (act: PictureAct) => void;
  onClose: () => void;
}

/** Puts another picture wherever some stand. */
export function ReplaceForm({ ids, lines, onPlan, onClose }: Props) {
  const [text, setText] = useState('');
  const [q] = useDebouncedValue(text.trim() || undefined, 200);
  const [by, setBy] = useState<number>();
  const [bin, setBin] = useState(true);
  const like = ids.length === 1 ? lines.find((p) => p.id === ids[0])?.likeness : undefined;
  const found = usePictures(q ? { q } : like ? { like } : {});
  const some = (found.all ?? []).filter((p) => !ids.includes(p.id)).slice(0, 60);
  return (
    <Modal
      opened
      onClose={onClose}
      size="xl"
      title={t('pictures.replace_title', { count: ids.length })}
      closeButtonProps={{ 'aria-label': t('page.close') }}
    >
      <TextInput
        data-autofocus
        label={t('pictures.replace_by')}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <PickGrid
        pictures={some}
        isPicked={(p) => by === p.id}
        onPick={(p) => setBy(p.id)}
        says={(p) => `${p.width} × ${p.height}`}
      />
      {found.all && some.length === 0 && <p className="soft">{t('pictures.none')}</p>}
      <Checkbox label={t('pictures.replace_bin')} checked={bin} onChange={(e) => setBin(e.currentTarget.checked)} />
      <div className="row answers">
        <Button onClick={onClose}>{t('page.keep')}</Button>
        <Button
          className="go"
          disabled={!by}
          onClick={() =>
            onPlan({ act: 'replace', pictures: ids, by, bin, title: t('pictures.plan_replace', { count: ids.length }) })
          }
        >
          {t('pictures.show_plan')}
        </Button>
      </div>
    </Modal>
  );
}
