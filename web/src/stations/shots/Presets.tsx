import { Button, NativeSelect, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useAsk } from '../../api/queries';
import { presetsQuery, removePreset, savePreset } from '../../api/shots';
import { say } from '../../ui/complain';
import { useMayEdit } from '../../ui/session';
import { t } from '../../words/words';
import { type Chosen, fromPreset, usualColumns } from './columns';

interface Props {
  columns: Chosen[];
  side: number;
  onUse: (columns: Chosen[], side: number) => void;
}

/** What picture tables hold, saved under names: used, saved and removed. */
export function Presets({ columns, side, onUse }: Props) {
  const mayEdit = useMayEdit();
  const presets = useQuery(presetsQuery).data ?? [];
  const [chosen, setChosen] = useState('');
  const [name, setName] = useState<string>();
  const save = useAsk(savePreset, [['picture-presets']]);
  const remove = useAsk(removePreset, [['picture-presets']]);
  const use = (id: string) => {
    setChosen(id);
    const preset = presets.find((p) => String(p.id) === id);
    if (preset) onUse(fromPreset(preset.columns), preset.side);
    else onUse(usualColumns(), 96);
  };
  const keep = () =>
    name &&
    save.mutate(
      { name, side, columns: columns.filter((c) => c.on).map(({ column, header }) => ({ column, header })) },
      {
        onSuccess: ({ id }) => {
          say(t('shots.saved', { name }));
          setChosen(String(id));
          setName(undefined);
        },
      },
    );
  return (
    <div className="row presets">
      <NativeSelect
        className="grow"
        label={t('shots.preset')}
        value={chosen}
        onChange={(e) => use(e.currentTarget.value)}
        data={[
          { value: '', label: t('shots.preset_none') },
          ...presets.map((p) => ({ value: String(p.id), label: p.name })),
        ]}
      />
      {mayEdit && name === undefined && <Button onClick={() => setName('')}>{t('shots.save')}</Button>}
      {mayEdit && name === undefined && chosen && (
        <Button
          variant="subtle"
          className="quietbutton"
          onClick={() => remove.mutate(Number(chosen), { onSuccess: () => use('') })}
        >
          {t('shots.remove')}
        </Button>
      )}
      {name !== undefined && (
        <>
          <TextInput
            label={t('shots.name')}
            value={name}
            maxLength={200}
            onChange={(e) => setName(e.currentTarget.value)}
            onKeyDown={(e) => {
              if (e.key !== 'Enter') return;
              e.preventDefault();
              keep();
            }}
          />
          <Button onClick={keep} disabled={!name.trim() || !columns.some((c) => c.on)} loading={save.isPending}>
            {t('shots.save_now')}
          </Button>
        </>
      )}
    </div>
  );
}
