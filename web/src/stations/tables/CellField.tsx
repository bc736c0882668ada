import { useEffect, useRef } from 'react';
import type { TableProblem } from '../../api/tables';
import { Shape } from '../../ui/Grade';
import { plainly } from '../../ui/Met';
import { say } from '../../words/messages';
import { t } from '../../words/words';

interface Props {
  text: string;
  /** Whether a picture lies in it. */
  lies: boolean;
  problems: TableProblem[] | undefined;
  /** Whether the focus is on this cell. */
  here: boolean;
  /** What it is edited to begin with; nothing where it is only shown. */
  editing: string | undefined;
  onHere: () => void;
  onEnd: (text: string | undefined, move: 'down' | 'right' | undefined) => void;
}

/** One cell: its text, a mark where something is wrong, and a field while it is edited. */
export function CellField({ text, lies, problems, here, editing, onHere, onEnd }: Props) {
  const ended = useRef(false);
  const cell = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    if (here) cell.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [here]);
  if (editing !== undefined) {
    ended.current = false;
    const end = (value: string | undefined, move?: 'down' | 'right') => {
      if (ended.current) return;
      ended.current = true;
      onEnd(value, move);
    };
    return (
      <input
        className="celledit mono"
        defaultValue={editing}
        aria-label={text}
        // biome-ignore lint/a11y/noAutofocus: the cell was asked to be edited
        autoFocus
        onFocus={(e) => e.currentTarget.setSelectionRange(editing.length, editing.length)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') end(e.currentTarget.value, 'down');
          else if (e.key === 'Tab') end(e.currentTarget.value, 'right');
          else if (e.key === 'Escape') end(undefined);
          else return;
          e.preventDefault();
        }}
        onBlur={(e) => end(e.currentTarget.value)}
      />
    );
  }
  const stops = problems?.some((p) => p.stops);
  const why = problems?.map((p) => say(p.why)).join(' ');
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the board has the keys
    // biome-ignore lint/a11y/noNoninteractiveElementInteractions: a cell of the grid, which has the focus
    // biome-ignore lint/a11y/noStaticElementInteractions: a cell of the grid, which has the focus
    <span
      ref={cell}
      className={`celltext clip mono ${here ? 'here' : ''} ${problems?.length ? (stops ? 'stops' : 'look-at') : ''}`}
      title={why}
      onClick={onHere}
    >
      {problems?.length ? <Shape grade={stops ? 'contested' : 'likely'} /> : null}
      {problems?.length ? <span className="unseen">{why} </span> : null}
      {plainly(text)}
      {lies && <span className="soft lies">{t('tables.lies')}</span>}
    </span>
  );
}
