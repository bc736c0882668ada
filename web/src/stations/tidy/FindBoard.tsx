import { type ReactNode, useEffect, useState } from 'react';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { t } from '../../words/words';

interface Props<T> {
  name: string;
  title: string;
  says: string;
  /** What is done with all of it. */
  acts?: ReactNode;
  finds: { all?: T[]; error?: Error | null; whole: boolean; more: () => void };
  columns: Column<T>[];
  height?: number;
  none: string;
  onAt: (line: T) => void;
  onOpen?: (line: T) => void;
  picked?: ReadonlySet<number>;
  id?: (line: T) => number;
  onPick?: (id: number) => void;
}

/** Finds of one kind on a board, with what to do about them above. */
export function FindBoard<T>(p: Props<T>) {
  const [at, setAt] = useState(-1);
  const { finds, id } = p;
  const lines = finds.all ?? [];
  const line = lines[at];
  const first = lines[0];
  // biome-ignore lint/correctness/useExhaustiveDependencies: the first line that comes is in focus
  useEffect(() => {
    if (at >= 0 || first === undefined) return;
    setAt(0);
    p.onAt(first);
  }, [first]);
  return (
    <>
      <header className="top row">
        <div className="grow">
          <h1>{p.title}</h1>
          <p className="soft">{p.says}</p>
        </div>
        {p.acts}
      </header>
      {finds.error && <Empty title={t('tidy.cant')}>{finds.error.message}</Empty>}
      {!finds.all && !finds.error && <div className="hush">{t('tidy.reading')}</div>}
      {finds.all && lines.length === 0 && <Empty title={t('tidy.nothing')}>{p.none}</Empty>}
      {lines.length > 0 && (
        <Board
          name={p.name}
          label={p.title}
          lines={lines}
          total={finds.whole ? lines.length : -1}
          at={at}
          height={p.height ?? 44}
          onAt={(n) => {
            setAt(n);
            if (lines[n] !== undefined) p.onAt(lines[n]);
          }}
          onMore={finds.more}
          onOpen={(n) => lines[n] !== undefined && p.onOpen?.(lines[n])}
          selected={(l) => (id && p.picked?.has(id(l))) || false}
          onKey={(key) => {
            if (key !== ' ' || !line || !id || !p.onPick) return false;
            p.onPick(id(line));
            return true;
          }}
          columns={p.columns}
          autoFocus
        />
      )}
    </>
  );
}
