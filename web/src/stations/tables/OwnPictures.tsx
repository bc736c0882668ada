import { CloseButton } from '@mantine/core';
import { Link } from '@tanstack/react-router';
import { useAsk } from '../../api/queries';
import { askTable, type Table } from '../../api/tables';
import type { Dropped } from '../../ui/dropped';
import { named, t } from '../../words/words';
import { attachFiles } from './bring';
import { FilesButton } from './FilesButton';

/** The deliveries that belong to a table, and the way to attach more. */
export function OwnPictures({ table }: { table: Table }) {
  const touched = [['table', table.id], ['deliveries']];
  const attach = useAsk((files: Dropped[]) => attachFiles([table.id], files), touched);
  const detach = useAsk((delivery: number) => askTable.detach(table.id, delivery), touched);
  return (
    <>
      <h2 className="railhead">{t('tables.own')}</h2>
      {table.own.length > 0 && <p className="soft small">{t('tables.own_why')}</p>}
      <ul className="plain own">
        {table.own.map((d) => (
          <li key={d.id} className="row">
            <Link to="/gather" search={{ in: d.id }} className="grow clip">
              {d.title}
              <small>
                {d.state === 'ready' ? t('tables.own_facts', { n: d.pictures }) : named(`state.${d.state}`)}
                {d.problems > 0 && ` · ${t('tables.own_failed', { n: d.problems })}`}
              </small>
            </Link>
            <CloseButton
              size="sm"
              aria-label={t('tables.detach', { title: d.title })}
              title={t('tables.detach', { title: d.title })}
              onClick={() => detach.mutate(d.id)}
            />
          </li>
        ))}
      </ul>
      <FilesButton
        name={t('tables.attach')}
        testid="attach"
        size="compact-sm"
        loading={attach.isPending}
        onFiles={attach.mutate}
      />
    </>
  );
}
