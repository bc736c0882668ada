import { Button, Modal, Select, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { PictureAct } from '../../api/gallery';
import { named, t } from '../../words/words';

interface Props {
  what: 'tag' | 'note' | 'rights';
  ids: number[];
  onPlan: (act: PictureAct) => void;
  onClose: () => void;
}

const MAY = ['cleared', 'internal', 'not_cleared'] as const;

/** Says something of pictures: a tag, a note, or what they may be used for. */
export function SayForm({ what, ids, onPlan, onClose }: Props) {
  const [text, setText] = useState(what === 'tag' ? 'keep' : '');
  const [rights, setRights] = useState({ may: 'cleared' as (typeof MAY)[number], until: '', holder: '', proof: '' });
  const set = (part: Partial<typeof rights>) => setRights({ ...rights, ...part });
  const title = t(`pictures.plan_${what}`, { count: ids.length });
  const done = (act: PictureAct['act']) =>
    onPlan({
      act,
      pictures: ids,
      title,
      text: what === 'rights' ? undefined : text,
      rights: act === 'rights' ? rights : undefined,
    });
  return (
    <Modal opened onClose={onClose} title={title} closeButtonProps={{ 'aria-label': t('page.close') }}>
      {what === 'tag' && (
        <>
          <TextInput
            data-autofocus
            label={t('pictures.tag_name')}
            value={text}
            maxLength={60}
            onChange={(e) => setText(e.currentTarget.value)}
          />
          <p className="soft">{t('pictures.tag_keep')}</p>
        </>
      )}
      {what === 'note' && (
        <Textarea
          data-autofocus
          label={t('pictures.note')}
          value={text}
          maxLength={4000}
          autosize
          minRows={3}
          onChange={(e) => setText(e.currentTarget.value)}
        />
      )}
      {what === 'rights' && (
        <>
          <Select
            data-autofocus
            label={t('pictures.group_cleared')}
            data={MAY.map((value) => ({ value, label: named(`pictures.is_${value}`) }))}
            value={rights.may}
            allowDeselect={false}
            onChange={(may) => set({ may: (may ?? 'cleared') as (typeof MAY)[number] })}
          />
          <TextInput
            type="date"
            label={t('pictures.rights_until')}
            value={rights.until}
            onChange={(e) => set({ until: e.currentTarget.value })}
          />
          <TextInput
            label={t('pictures.rights_holder')}
            value={rights.holder}
            maxLength={200}
            onChange={(e) => set({ holder: e.currentTarget.value })}
          />
          <TextInput
            label={t('pictures.rights_proof')}
            value={rights.proof}
            maxLength={2000}
            onChange={(e) => set({ proof: e.currentTarget.value })}
          />
        </>
      )}
      <div className="row answers">
        {what === 'tag' && <Button onClick={() => done('untag')}>{t('pictures.untag')}</Button>}
        {what === 'rights' && <Button onClick={() => done('no_rights')}>{t('pictures.no_rights')}</Button>}
        <span className="grow" />
        <Button onClick={onClose}>{t('page.keep')}</Button>
        <Button className="go" disabled={what === 'tag' && !text.trim()} onClick={() => done(what)}>
          {t('pictures.show_plan')}
        </Button>
      </div>
    </Modal>
  );
}
