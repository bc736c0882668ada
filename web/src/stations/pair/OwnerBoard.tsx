import { type KeyboardEvent, useEffect, useMemo } from 'react';
import type { Line, Owner } from '../../api/client';
import { useByOwner } from '../../api/pages';
import type { Act } from '../../ui/acts';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { Strip } from '../../ui/Thumb';
import { useFocus } from '../../ui/useFocus';
import { t } from '../../words/words';
import { placeAt } from './order';
import { ruleName, useRule } from './rules';

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
  /** What a row's menu offers. */
  acts: () => Act[];
}

/** The delivery by owner: two strips, what it has now and what it would have under the house rule. */
export function OwnerBoard({ delivery, version, label, lines, owners, at, onAt, onLine, onShown, onKey, acts }: Props) {
  const [rule] = useRule();
  const { views, more, error, fetchAll } = useByOwner(delivery, rule, version);
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
  const cols = useMemo(() => columns(owners, ruleName(rule)), [owners, rule]);
  const list = useMemo(() => shown.map((v) => ({ id: v.owner })), [shown]);
  const focus = useFocus(list, at);
  const line = first.get(shown[focus]?.owner ?? 0);
  useEffect(() => onLine(line), [line, onLine]);
  useEffect(() => onShown(focus, shown.length), [focus, shown.length, onShown]);
  // Where a filter leaves few of a piece, more is asked for until the board is full.
  useEffect(() => {
    if (more && shown.length < 30) more();
  }, [more, shown.length]);
  if (error) return <Empty title={t('pair.owners_cant')}>{error.message}</Empty>;
  if (!views) return <div className="hush">{t('pair.loading_pictures')}</div>;
  if (!shown.length && !more) return <Empty title={t('pair.owners_none')} />;
  return (
    <Board
      name="pair-owners"
      label={t('pair.by_owner_of', { label })}
      lines={shown}
      height={58}
      at={focus}
      onAt={(i) => onAt(shown[i]?.owner)}
      onMore={more}
      onAll={fetchAll}
      columns={cols}
      onKey={onKey}
      acts={acts}
      autoFocus
    />
  );
}

type View = { owner: number; now: string[]; then: string[] };

const columns = (owners: Map<number, Owner>, rule: string): Column<View>[] => [
  {
    id: 'owner',
    name: t('column.owner'),
    fixed: true,
    width: 'minmax(120px, 1fr)',
    className: 'two',
    text: ({ owner: id }) => owners.get(id)?.sku || owners.get(id)?.label,
    cell: ({ owner: id }) => {
      const owner = owners.get(id);
      return (
        <>
          <b className="mono clip">{owner?.sku || owner?.label}</b>
          <span className="soft clip">{owner?.label}</span>
        </>
      );
    },
  },
  {
    id: 'now',
    name: t('column.now'),
    width: '188px',
    wide: true,
    cell: ({ now }) => <Strip shas={now} size={40} most={4} />,
    text: ({ now }) => now.join(' '),
  },
  {
    id: 'after',
    name: t('column.would', { rule }),
    fixed: true,
    width: 'minmax(188px, 1fr)',
    text: ({ then }) => then.join(' '),
    cell: ({ now, then }) =>
      now.length === then.length && now.every((sha, n) => sha === then[n]) ? (
        <span className="soft">{t('pair.stays')}</span>
      ) : (
        <Strip shas={then} size={40} most={6} was={now} />
      ),
  },
];
