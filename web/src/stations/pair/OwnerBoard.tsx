import { type KeyboardEvent, useEffect, useMemo } from 'react';
import type { Line, Owner } from '../../api/client';
import { useByOwner } from '../../api/pages';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { Strip } from '../../ui/Thumb';
import { placeAt } from './order';
import { ruleName, useRule } from './rules';
import { useFocus } from './useFocus';

interface Props {
  delivery: number;
  version: string;
  label: string;
  /** The lines that pass the filter: their owners are shown. */
  lines: Line[];
  owners: Map<number, Owner>;
  /** The owner in focus. */
  at: number | undefined;
  onAt: (owner: number | undefined) => void;
  /** Tells which line is in focus: the owner's first. */
  onLine: (line: Line | undefined) => void;
  onShown: (at: number, owners: number) => void;
  onKey: (key: string, event: KeyboardEvent) => boolean;
}

/** The delivery by owner: two strips, what it has now and what it would have under the house rule. */
export function OwnerBoard({ delivery, version, label, lines, owners, at, onAt, onLine, onShown, onKey }: Props) {
  const [rule] = useRule();
  const { views, more, error } = useByOwner(delivery, rule, version);
  const first = useMemo(() => {
    const of = new Map<number, Line>();
    for (const l of lines) {
      for (const owner of [l.owner ?? 0, ...(l.also?.map((a) => a.owner) ?? [])]) {
        const has = of.get(owner);
        if (owner && (!has || placeAt(l, owner) < placeAt(has, owner))) of.set(owner, l);
      }
    }
    return of;
  }, [lines]);
  const shown = useMemo(() => (views ?? []).filter((v) => first.has(v.owner)), [views, first]);
  const list = useMemo(() => shown.map((v) => ({ id: v.owner })), [shown]);
  const focus = useFocus(list, at);
  const line = first.get(shown[focus]?.owner ?? 0);
  useEffect(() => onLine(line), [line, onLine]);
  useEffect(() => onShown(focus, shown.length), [focus, shown.length, onShown]);
  // Where a filter leaves few of a piece, more is asked for until the board is full.
  useEffect(() => {
    if (more && shown.length < 30) more();
  }, [more, shown.length]);
  if (error) return <Empty title="The owners can’t be shown.">{error.message}</Empty>;
  if (!views) return <div className="hush">Loading pictures …</div>;
  if (!shown.length && !more) return <Empty title="No owner gets a picture of these lines." />;
  return (
    <Board
      label={`${label}, by owner`}
      lines={shown.length}
      height={58}
      at={focus}
      onAt={(i) => onAt(shown[i]?.owner)}
      onMore={more}
      columns="minmax(150px, 1fr) 188px 14px minmax(188px, 1fr)"
      head={
        <>
          <span>Owner</span>
          <span>Now</span>
          <span />
          <span>As it would be, {ruleName(rule)}</span>
        </>
      }
      line={(i) => {
        const v = shown[i];
        const owner = owners.get(v?.owner ?? 0);
        if (!v) return null;
        const stays = v.now.length === v.then.length && v.now.every((sha, n) => sha === v.then[n]);
        return (
          <>
            <span role="gridcell" className="two">
              <b className="mono clip">{owner?.sku || owner?.label}</b>
              <span className="soft clip">{owner?.label}</span>
            </span>
            <span role="gridcell">
              <Strip shas={v.now} size={40} most={4} />
            </span>
            <span role="gridcell" aria-hidden className="soft">
              →
            </span>
            <span role="gridcell">
              {stays ? (
                <span className="soft">stays as it is</span>
              ) : (
                <Strip shas={v.then} size={40} most={6} was={v.now} />
              )}
            </span>
          </>
        );
      }}
      onKey={onKey}
      autoFocus
    />
  );
}
