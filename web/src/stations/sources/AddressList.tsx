import { useInfiniteQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { client, data, type Schemas } from '../../api/client';
import type { Source } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { plainly } from '../../ui/Met';
import { useFocus } from '../../ui/useFocus';
import { t } from '../../words/words';
import type { Parts } from './parts';

type Line = Schemas['AddressLine'] & { id: number };
const PIECE = 1000;

/** The addresses of a source, and whose picture is at each. */
export function AddressList({ source, rail, top, at, onAt }: Parts & { source: Source }) {
  const pages = useInfiniteQuery({
    queryKey: ['deliveries', 'sources', source.id, 'addresses'],
    queryFn: ({ pageParam: after }) =>
      data(
        client.GET('/api/sources/{id}/addresses', {
          params: { path: { id: source.id }, query: { after, most: PIECE } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < PIECE ? undefined : last.at(-1)?.row),
  });
  const lines = useMemo(() => (pages.data?.pages.flat() ?? []).map((a): Line => ({ ...a, id: a.row })), [pages.data]);
  const focus = useFocus(lines, at);
  const cols = useMemo(() => columns(), []);
  return (
    <Bench
      rail={rail}
      board={
        <>
          {top}
          {lines.length > 0 ? (
            <Board
              name="addresses"
              label={t('sources.addresses')}
              lines={lines}
              columns={cols}
              height={36}
              at={focus}
              onAt={(n) => onAt(lines[n]?.id)}
              onMore={() => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage()}
              autoFocus
            />
          ) : (
            pages.data && <Empty title={t('sources.no_addresses')} />
          )}
        </>
      }
      glass={lines[focus] && <p className="mono wrap">{plainly(lines[focus].address)}</p>}
    />
  );
}

const columns = (): Column<Line>[] => [
  { id: 'row', name: t('sources.row'), width: '60px', figures: true, cell: (l) => l.row, text: (l) => l.row },
  {
    id: 'sku',
    name: t('sources.our_sku'),
    width: '180px',
    className: 'two',
    cell: (l) => <span className="mono clip">{l.sku}</span>,
    text: (l) => l.sku,
  },
  {
    id: 'address',
    name: t('sources.address'),
    fixed: true,
    width: 'minmax(200px, 1fr)',
    className: 'two',
    cell: (l) => <span className="mono clip">{plainly(l.address)}</span>,
    text: (l) => l.address,
  },
];
