import { Select, Textarea, TextInput } from '@mantine/core';
import type { Rights } from '../../api/sources';
import { named, t } from '../../words/words';

const MAY = ['', 'cleared', 'internal', 'not_cleared'] as const;
const mayName = (may: string) => (may ? named(`rights.${may}`) : t('rights.unsaid'));

/** What pictures may be used for, on one line; nothing where nothing is said. */
export function RightsLine({ rights }: { rights?: Rights }) {
  if (!rights?.may) return null;
  const ended = rights.until && rights.until < new Date().toISOString().slice(0, 10);
  const held = ended || rights.may === 'not_cleared';
  return (
    <p className={held ? 'wrong' : 'soft'}>
      {[
        mayName(rights.may),
        rights.until && t(ended ? 'rights.ended' : 'rights.until_day', { day: rights.until }),
        rights.holder,
        rights.proof,
      ]
        .filter(Boolean)
        .join(' · ')}
    </p>
  );
}

/** Asks what pictures may be used for: whether, until when, whose they are, and what proves it. */
export function RightsFields({ rights, onChange }: { rights: Rights; onChange: (rights: Rights) => void }) {
  const set = (part: Partial<Rights>) => onChange({ ...rights, ...part });
  return (
    <>
      <Select
        label={t('rights.may')}
        data={MAY.map((value) => ({ value, label: mayName(value) }))}
        value={rights.may}
        allowDeselect={false}
        onChange={(may) => set({ may: (may ?? '') as Rights['may'] })}
      />
      {rights.may && (
        <>
          <div className="row two-fields">
            <TextInput
              type="date"
              label={t('rights.until')}
              value={rights.until ?? ''}
              onChange={(e) => set({ until: e.currentTarget.value })}
            />
            <TextInput
              label={t('rights.holder')}
              value={rights.holder ?? ''}
              maxLength={200}
              onChange={(e) => set({ holder: e.currentTarget.value })}
            />
          </div>
          <Textarea
            label={t('rights.proof')}
            value={rights.proof ?? ''}
            maxLength={4000}
            autosize
            minRows={1}
            maxRows={4}
            onChange={(e) => set({ proof: e.currentTarget.value })}
          />
        </>
      )}
    </>
  );
}
