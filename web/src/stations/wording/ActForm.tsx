import { Button, Checkbox, Select, TextInput } from '@mantine/core';
import type { TextAct } from '../../api/hand';
import { t } from '../../words/words';
import { PatternHelp } from './PatternHelp';

const ACTS = ['replace', 'same', 'pattern', 'rules', 'clear'] as const;

interface Props {
  act: TextAct;
  /** Why nothing can be shown of it. */
  error?: string;
  onChange: (act: TextAct) => void;
  onClose: () => void;
}

/** What is done with many texts at once; the board shows what would become of them. */
export function ActForm({ act, error, onChange, onClose }: Props) {
  const set = (part: Partial<TextAct>) => onChange({ ...act, ...part });
  return (
    <div className="notice actform">
      <div className="row fields">
        <Select
          label={t('wording.what')}
          data={ACTS.map((a) => ({ value: a, label: t(`wording.act_${a}`) }))}
          value={act.act}
          allowDeselect={false}
          onChange={(a) => onChange({ act: (a ?? 'replace') as TextAct['act'], over: act.over })}
        />
        {act.act === 'replace' && (
          <>
            <TextInput
              label={t('wording.find')}
              value={act.find ?? ''}
              data-autofocus
              onChange={(e) => set({ find: e.currentTarget.value })}
            />
            <TextInput
              label={t('wording.put')}
              value={act.by ?? ''}
              onChange={(e) => set({ by: e.currentTarget.value })}
            />
          </>
        )}
        {act.act === 'same' && (
          <TextInput
            className="grow"
            label={t('wording.same_text')}
            value={act.text ?? ''}
            onChange={(e) => set({ text: e.currentTarget.value })}
          />
        )}
        {act.act === 'pattern' && (
          <TextInput
            className="grow"
            classNames={{ input: 'mono' }}
            label={t('wording.pattern')}
            value={act.pattern ?? ''}
            onChange={(e) => set({ pattern: e.currentTarget.value })}
          />
        )}
        <Button variant="subtle" className="quietbutton" onClick={onClose}>
          {t('page.keep')}
        </Button>
      </div>
      {error && (
        <p className="wrong" role="alert">
          {error}
        </p>
      )}
      {act.act === 'pattern' && <PatternHelp />}
      {(act.act === 'pattern' || act.act === 'rules') && (
        <Checkbox
          label={t('wording.over')}
          checked={act.over ?? false}
          onChange={(e) => set({ over: e.currentTarget.checked })}
        />
      )}
    </div>
  );
}
