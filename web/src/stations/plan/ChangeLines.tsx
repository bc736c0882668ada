import { useInfiniteQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import type { Change, Touched } from '../../api/client';
import { changesQuery } from '../../api/queries';
import { rendererOf } from '../../subjects';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { say } from '../../words/messages';

/** A line in focus, and what the lines touch. */
export interface InFocus {
  /** The plan that the line is of. */
  plan: number;
  change?: Change;
  touched: Touched;
}

export const nothingInFocus: InFocus = { plan: 0, touched: { owners: new Map(), assets: new Map() } };

interface Props {
  plan: number;
  total: number;
  left: boolean;
  onAt: (focus: InFocus) => void;
}

/** A plan's changes, thing by thing, before and after. More are fetched as one nears the end. */
export function ChangeLines({ plan, total, left, onAt }: Props) {
  const pages = useInfiniteQuery(changesQuery(plan, left));
  const changes = useMemo(() => pages.data?.pages.flatMap((p) => p.lines) ?? [], [pages.data]);
  const touched = useMemo(
    () => ({
      owners: new Map(pages.data?.pages.flatMap((p) => p.owners.map((o) => [o.id, o]))),
      assets: new Map(pages.data?.pages.flatMap((p) => p.assets.map((a) => [a.id, a.sha]))),
    }),
    [pages.data],
  );
  const [at, setAt] = useState(0);
  const current = changes[at];
  useEffect(() => onAt({ plan, change: current, touched }), [plan, current, touched, onAt]);
  if (!pages.data) return <div className="hush">Reading the changes …</div>;
  if (changes.length === 0) return <Empty title={left ? 'No line was left alone.' : 'There is nothing to change.'} />;
  return (
    <Board
      label={left ? 'Lines left alone' : `Changes, ${total} in all`}
      lines={changes.length}
      height={52}
      at={at}
      onAt={setAt}
      onMore={() => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage()}
      columns="minmax(170px, 1fr) minmax(150px, 1fr) 18px minmax(150px, 1fr)"
      lineClass={(i) => (changes[i]?.why ? 'faint' : undefined)}
      head={
        <>
          <span>Owner</span>
          <span>Before</span>
          <span />
          <span>After</span>
        </>
      }
      line={(i) => {
        const change = changes[i];
        return change && <ChangeLine change={change} touched={touched} />;
      }}
      autoFocus
    />
  );
}

function ChangeLine({ change, touched }: { change: Change; touched: Touched }) {
  const { name, Side } = rendererOf(change.subject);
  const { code, label } = name(change, touched);
  return (
    <>
      <span role="gridcell" className="two">
        <b className="mono clip">{code}</b>
        <span className={change.why ? 'clip wrong' : 'soft clip'}>
          {change.why ? `◇ ${say(change.why)}` : change.undone ? 'undone since' : label}
        </span>
      </span>
      <span role="gridcell" className="side">
        <Side change={change} side="before" touched={touched} />
      </span>
      <span role="gridcell" aria-hidden className="soft">
        →
      </span>
      <span role="gridcell" className="side">
        <Side change={change} side="after" touched={touched} />
      </span>
    </>
  );
}
