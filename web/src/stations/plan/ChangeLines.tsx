import { useInfiniteQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import type { Change } from '../../api/client';
import { changesQuery } from '../../api/queries';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { Strip } from '../../ui/Thumb';

interface Props {
  plan: number;
  total: number;
  left: boolean;
  onAt: (change?: Change) => void;
}

/** A plan's changes, owner by owner, before and after. More are fetched as one nears the end. */
export function ChangeLines({ plan, total, left, onAt }: Props) {
  const pages = useInfiniteQuery(changesQuery(plan, left));
  const changes = useMemo(() => pages.data?.pages.flat() ?? [], [pages.data]);
  const [at, setAt] = useState(0);
  const current = changes[at];
  useEffect(() => onAt(current), [current, onAt]);
  if (!pages.data) return <div className="hush">Reading the changes …</div>;
  if (changes.length === 0) return <Empty title={left ? 'No line was left alone.' : 'There is nothing to change.'} />;
  const owner = changes[0]?.subject === 'owner';
  return (
    <Board
      label={left ? 'Lines left alone' : `Changes, ${total} in all`}
      lines={changes.length}
      height={52}
      at={at}
      onAt={setAt}
      onMore={() => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage()}
      columns={
        owner
          ? 'minmax(150px, 0.9fr) minmax(120px, 1fr) 18px minmax(120px, 1fr)'
          : 'minmax(170px, 1fr) minmax(170px, 1fr) 18px minmax(170px, 1fr)'
      }
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
        const c = changes[i];
        return c ? c.subject === 'owner' ? <OwnerLine change={c} /> : <PicturesLine change={c} /> : null;
      }}
      autoFocus
    />
  );
}

function OwnerCell({ change }: { change: Change }) {
  return (
    <span role="gridcell" className="two">
      <b className="mono clip">{change.owner.sku || change.owner.kind}</b>
      <span className={change.why ? 'clip wrong' : 'soft clip'}>
        {change.why ? `◇ ${change.why}` : change.undone ? 'taken back since' : change.owner.label}
      </span>
    </span>
  );
}

function PicturesLine({ change }: { change: Change }) {
  const before = (change.before ?? []).map((p) => p.sha);
  const after = (change.after ?? []).map((p) => p.sha);
  return (
    <>
      <OwnerCell change={change} />
      <span role="gridcell">
        <Strip shas={before} size={38} most={4} gone={change.gone?.map((p) => p.sha)} />
      </span>
      <span role="gridcell" aria-hidden className="soft">
        →
      </span>
      <span role="gridcell">
        <Strip shas={after} size={38} most={4} was={before} />
      </span>
    </>
  );
}

function OwnerLine({ change }: { change: Change }) {
  return (
    <>
      <OwnerCell change={change} />
      <span role="gridcell" className="soft clip">
        {change.was ? ownerWords(change.was) : 'not there'}
      </span>
      <span role="gridcell" aria-hidden className="soft">
        →
      </span>
      <span role="gridcell" className="clip">
        {change.will ? ownerWords(change.will) : 'removed'}
      </span>
    </>
  );
}

export function ownerWords(owner: NonNullable<Change['was']>): string {
  const options = Object.entries(owner.options ?? {}).map(([name, value]) => `${name} ${value}`);
  return [owner.kind, owner.title, ...options, owner.barcode].filter(Boolean).join(' · ');
}
