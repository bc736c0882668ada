import { Button, Select, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { askChannel, channelsQuery, type List, savedListsQuery } from '../../api/channels';
import { useAsk } from '../../api/queries';
import { say } from '../../ui/complain';
import { t } from '../../words/words';

const touched = [['saved-lists']];

interface Props {
  list?: List;
  onUse: (list: List) => void;
}

/** Lists to begin with: those that were saved under names, and those of other channels. The list in hand is saved here. */
export function SavedLists({ list, onUse }: Props) {
  const saved = useQuery(savedListsQuery).data ?? [];
  const others = (useQuery(channelsQuery).data ?? []).flatMap((c) =>
    c.says.list ? [{ key: `channel ${c.id}`, name: c.name, list: c.says.list }] : [],
  );
  const mine = saved.map((s) => ({ key: `saved ${s.id}`, id: s.id, name: s.name, list: s.list }));
  const [chosen, setChosen] = useState<string | null>(null);
  const [name, setName] = useState<string>();
  const save = useAsk(askChannel.saveList, touched);
  const remove = useAsk(askChannel.removeList, touched);
  const removable = mine.find((s) => s.key === chosen);
  const keep = () =>
    list &&
    name?.trim() &&
    save.mutate(
      { name: name.trim(), list },
      {
        onSuccess: ({ id }) => {
          say(t('publish.list_saved', { name: name.trim() }));
          setChosen(`saved ${id}`);
          setName(undefined);
        },
      },
    );
  const options = (some: { key: string; name: string }[]) => some.map((s) => ({ value: s.key, label: s.name }));
  return (
    <>
      {mine.length + others.length > 0 && (
        <Select
          size="xs"
          aria-label={t('publish.list_begin')}
          placeholder={t('publish.list_begin')}
          data={[
            { group: t('publish.lists_saved'), items: options(mine) },
            { group: t('publish.lists_of_channels'), items: options(others) },
          ].filter((g) => g.items.length > 0)}
          value={chosen}
          onChange={(key) => {
            setChosen(key);
            const one = [...mine, ...others].find((s) => s.key === key);
            if (one) onUse(one.list);
          }}
        />
      )}
      {removable && (
        <Button
          size="compact-sm"
          variant="subtle"
          className="quietbutton"
          loading={remove.isPending}
          onClick={() => remove.mutate(removable.id, { onSuccess: () => setChosen(null) })}
        >
          {t('publish.list_unsave')}
        </Button>
      )}
      {list && name === undefined && (
        <Button size="compact-sm" onClick={() => setName('')}>
          {t('publish.list_save')}
        </Button>
      )}
      {list && name !== undefined && (
        <>
          <TextInput
            size="xs"
            aria-label={t('publish.list_save_name')}
            placeholder={t('publish.list_save_name')}
            value={name}
            maxLength={200}
            autoFocus
            onChange={(e) => setName(e.currentTarget.value)}
            onKeyDown={(e) => {
              if (e.key !== 'Enter') return;
              e.preventDefault();
              keep();
            }}
          />
          <Button size="compact-sm" disabled={!name.trim()} loading={save.isPending} onClick={keep}>
            {t('publish.list_save_now')}
          </Button>
        </>
      )}
    </>
  );
}
