import { Button, CloseButton, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useAsk } from '../../api/queries';
import { askTable, assignmentsQuery, type Table } from '../../api/tables';
import { say } from '../../ui/complain';
import { when } from '../../ui/format';
import { t } from '../../words/words';

/** How a table is read, saved under a name, and what was saved for tables with the same header. */
export function Assignments({ table }: { table: Table }) {
  const saved = useQuery(assignmentsQuery(table.id)).data ?? [];
  const [name, setName] = useState<string>();
  const touched = [['table', table.id]];
  const use = useAsk((assignment: number) => askTable.readAs(table.id, assignment), touched);
  const save = useAsk((name: string) => askTable.saveAssignment(table.id, name), touched);
  const remove = useAsk(askTable.removeAssignment, touched);
  const keep = () =>
    name?.trim() &&
    save.mutate(name, {
      onSuccess: () => {
        say(t('tables.saved_as', { name }));
        setName(undefined);
      },
    });
  return (
    <section className="reading" aria-label={t('tables.saved')}>
      {saved.length > 0 && <h2 className="railhead">{t('tables.saved')}</h2>}
      {saved.map((a) => (
        <div key={a.id} className="row">
          <Button
            size="compact-sm"
            className="grow"
            loading={use.isPending}
            title={t('tables.saved_by', { person: a.person, when: when(a.savedAt) })}
            onClick={() => use.mutate(a.id)}
          >
            {t('tables.saved_use', { name: a.name })}
          </Button>
          <CloseButton
            size="sm"
            aria-label={t('tables.saved_remove', { name: a.name })}
            title={t('tables.saved_remove', { name: a.name })}
            onClick={() => remove.mutate(a.id)}
          />
        </div>
      ))}
      {name === undefined ? (
        <Button size="compact-sm" onClick={() => setName('')}>
          {t('tables.save')}
        </Button>
      ) : (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <TextInput
            label={t('tables.save_name')}
            value={name}
            maxLength={200}
            data-autofocus
            onChange={(e) => setName(e.currentTarget.value)}
            onKeyDown={(e) => e.key === 'Escape' && setName(undefined)}
          />
          <Button type="submit" size="compact-sm" className="go" loading={save.isPending} disabled={!name.trim()}>
            {t('tables.save_now')}
          </Button>
        </form>
      )}
    </section>
  );
}
