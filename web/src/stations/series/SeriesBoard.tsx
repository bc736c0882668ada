import { Button } from '@mantine/core';
import { type KeyboardEvent, lazy, Suspense, useEffect, useMemo, useRef, useState } from 'react';
import type { Line, Owner } from '../../api/client';
import { type Series, useSeries } from '../../api/photos';
import type { Decision } from '../../api/queries';
import { Empty } from '../../ui/Empty';
import { t } from '../../words/words';
import { asItStands } from '../pair/decisions';
import { type Moving, moves } from './moving';
import { SeriesRow } from './SeriesRow';
import './Series.css';

const OwnerSearch = lazy(() => import('../../ui/OwnerSearch').then((m) => ({ default: m.OwnerSearch })));

interface Props {
  delivery: number;
  version: string;
  lines: Map<number, Line>;
  owners: Map<number, Owner>;
  mayEdit: boolean;
  /** The arrival in focus. */
  at: number | undefined;
  onAt: (arrival: number | undefined) => void;
  decide: (made: Decision[]) => void;
  onKey: (key: string, event: KeyboardEvent) => boolean;
}

/** Pictures whose names say nothing, by the series in which they were taken: each one decision, with borders that can be moved. */
export function SeriesBoard({ delivery, version, lines, owners, mayEdit, at, onAt, decide, onKey }: Props) {
  const query = useSeries(delivery, version);
  const all = useMemo(() => query.data?.pages.flatMap((p) => p.series) ?? [], [query.data]);
  const [moving, setMoving] = useState<Moving>();
  const [seeking, setSeeking] = useState<Series>();
  const board = useRef<HTMLDivElement>(null);
  const ids = useMemo(() => all.flatMap((s) => (s.slate ? [s.slate, ...rest(s)] : s.pictures)), [all]);
  const focus = ids.includes(at ?? 0) ? at : ids[0];
  useEffect(() => {
    if (focus !== at) onAt(focus);
  }, [focus, at, onAt]);
  const give = (pictures: number[], owner: number) =>
    decide(
      pictures.flatMap((id) => {
        const line = lines.get(id);
        return line ? [{ ...asItStands(line), owner, also: undefined, aside: false }] : [];
      }),
    );
  const accept = (s: Series) => s.owner && give(s.pictures, s.owner);
  const move = (m: Moving) => {
    setMoving(undefined);
    const to = all[m.by < 0 ? m.at + 1 : m.at];
    if (to?.owner) give(moves(all, m), to.owner);
  };
  const go = (to: number | undefined) => {
    if (to === undefined) return;
    onAt(to);
    board.current?.querySelector<HTMLElement>(`[data-shot="${to}"]`)?.focus();
  };
  const key = (e: KeyboardEvent) => {
    if ((e.target as HTMLElement).dataset.shot === undefined || focus === undefined) return;
    const here = ids.indexOf(focus);
    const row = all.findIndex((s) => s.slate === focus || s.pictures.includes(focus));
    const first = (s: Series | undefined) => s?.slate ?? s?.pictures[0];
    if (e.key === 'ArrowRight') go(ids[here + 1]);
    else if (e.key === 'ArrowLeft') go(ids[here - 1]);
    else if (e.key === 'ArrowDown') go(first(all[row + 1]));
    else if (e.key === 'ArrowUp') go(first(all[row - 1]));
    else if (e.key === 'Enter' && e.shiftKey && mayEdit) all[row] && accept(all[row]);
    else if (!onKey(e.key, e)) return;
    e.preventDefault();
    e.stopPropagation();
  };
  if (query.isError) return <Empty title={t('series.cant')}>{query.error.message}</Empty>;
  if (!query.data) return <div className="hush">{t('series.reading')}</div>;
  if (!all.length) return <Empty title={t('series.none')} />;
  const leaving = new Set(moving && moves(all, moving));
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the pictures in it are buttons; it moves between them
    <div className="seriesboard" ref={board} onKeyDown={key}>
      <p className="soft">{t('series.how')}</p>
      {all.map((s, n) => (
        <SeriesRow
          key={s.slate ?? s.pictures[0]}
          series={s}
          next={all[n + 1]}
          at={n}
          lines={lines}
          owner={owners.get(s.owner ?? 0)}
          focus={focus}
          leaving={leaving}
          moving={moving?.at === n ? moving : undefined}
          mayEdit={mayEdit}
          onAt={onAt}
          onAccept={() => accept(s)}
          onSeek={() => setSeeking(s)}
          onMoving={setMoving}
          onMove={move}
        />
      ))}
      {query.hasNextPage && (
        <Button loading={query.isFetchingNextPage} onClick={() => void query.fetchNextPage()}>
          {t('series.more')}
        </Button>
      )}
      <Suspense>
        <OwnerSearch
          opened={seeking !== undefined}
          title={t('series.ask', { count: seeking?.pictures.length ?? 0 })}
          onClose={() => setSeeking(undefined)}
          onPick={(owner) => {
            if (seeking) give(seeking.pictures, owner.id);
            setSeeking(undefined);
          }}
        />
      </Suspense>
    </div>
  );
}

/** Its pictures without the slate, which stands before them. */
const rest = (s: Series) => s.pictures.filter((id) => id !== s.slate);
