import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { useEffect, useState } from 'react';
import { useTables } from '../../api/pages';
import { tableQuery, useRows } from '../../api/tables';
import type { Where } from '../../router';
import { Bench } from '../../ui/Bench';
import { DropArea } from '../../ui/DropArea';
import { readDrop } from '../../ui/dropped';
import { Empty } from '../../ui/Empty';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { useTitle } from '../../ui/useTitle';
import { sayAll } from '../../words/messages';
import { t } from '../../words/words';
import { CellGlass } from './CellGlass';
import { EmptyTables } from './EmptyTables';
import { SendTable } from './SendTable';
import { TableBoard } from './TableBoard';
import { TableFoot } from './TableFoot';
import { TableRail } from './TableRail';
import { TableTop } from './TableTop';
import { useBring } from './useBring';
import { useEdits } from './useEdits';
import './Tables.css';

const idOf = (row: { row: number }) => ({ id: row.row });

/** The station of tables: sent, read, checked cell by cell, repaired, and planned. */
export function Tables() {
  const { table: chosen } = useParams({ strict: false });
  const search: Where = useSearch({ strict: false });
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const [closed, setClosed] = useState(false);
  const { all: tables, more } = useTables(closed);
  const id = Number(chosen ?? tables?.[0]?.id ?? 0);
  // The address names the table that is shown, so that a link shows a colleague the same one.
  const first = chosen ? undefined : tables?.[0]?.id;
  useEffect(() => {
    if (first) void navigate({ to: '/tables/$table', params: { table: String(first) }, replace: true });
  }, [first, navigate]);
  const query = useQuery(tableQuery(id));
  const table = query.data;
  const { rows, rest, more: moreRows, whole } = useRows(table?.read ? id : 0, search.show);
  const at = useFocus((rows ?? []).map(idOf), search.at);
  const [column, setColumn] = useState(0);
  const edits = useEdits(id);
  const { bring } = useBring();
  useTitle('tables', table?.name);
  const go = (part: Where) =>
    void navigate({
      to: '/tables/$table',
      params: { table: String(id) },
      search: { show: search.show, ...part },
      replace: true,
    });
  const row = rows?.[at];
  const settled = table?.state === 'done' || table?.state === 'failed';
  return (
    <DropArea says={t('tables.drop')} off={!mayEdit} onDrop={(from) => void readDrop(from).then(bring)}>
      <Bench
        rail={
          <TableRail
            {...{ tables, more, closed, setClosed, table, show: search.show, mayEdit, edits }}
            onTable={(table) => void navigate({ to: '/tables/$table', params: { table: String(table) } })}
            onShow={(show) => go({ show, at: undefined })}
          />
        }
        board={
          !table ? (
            <TablesEmpty none={tables?.length === 0} mayEdit={mayEdit} error={query.error?.message} />
          ) : (
            <>
              <TableTop {...{ table, mayEdit, edits, show: search.show }} />
              {table.state === 'failed' && <p className="notice">{sayAll(table.notes) || t('tables.failed')}</p>}
              {rows?.length ? (
                <TableBoard
                  {...{ table, rows, at, column, mayEdit, edits }}
                  total={whole && !search.show ? rows.length : -1}
                  onAt={(n) => go({ at: rows[n]?.row })}
                  onColumn={setColumn}
                  onMore={moreRows}
                />
              ) : (
                <Empty
                  title={t(!settled || !rows ? 'tables.reading' : search.show ? 'tables.no_such' : 'tables.nothing')}
                />
              )}
            </>
          )
        }
        glass={
          table &&
          row && <CellGlass key={`${row.row}-${column}`} {...{ table, row, rows, column, rest, mayEdit, edits }} />
        }
        foot={table && <TableFoot {...{ table, mayEdit }} at={at} rows={rows?.length ?? 0} />}
      />
    </DropArea>
  );
}

function TablesEmpty({ none, mayEdit, error }: { none: boolean; mayEdit: boolean; error?: string }) {
  if (error) return <Empty title={t('tables.cant')}>{error}</Empty>;
  if (!none) return <div className="hush">{t('tables.loading')}</div>;
  return (
    <Empty title={t('tables.none')}>
      <p>{t('tables.none_what')}</p>
      {mayEdit && <SendTable name={t('tables.send')} />}
      <EmptyTables />
    </Empty>
  );
}
