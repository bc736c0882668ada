import { useHotkeys, useLocalStorage } from '@mantine/hooks';
import type { ReactNode } from 'react';

interface Props {
  rail: ReactNode;
  board: ReactNode;
  glass: ReactNode;
  foot?: ReactNode;
}

/** The three parts that every station has: rail, board, glass. The outer two resize and fold. */
export function Bench({ rail, board, glass, foot }: Props) {
  const [left, setLeft] = useLocalStorage({ key: 'ambrosa-rail', defaultValue: 208, getInitialValueInEffect: false });
  const [right, setRight] = useLocalStorage({
    key: 'ambrosa-glass',
    defaultValue: 322,
    getInitialValueInEffect: false,
  });
  const fold = (width: number, open: number) => (width ? 0 : open);
  useHotkeys([
    ['[', () => setLeft((w) => fold(w, 208))],
    [']', () => setRight((w) => fold(w, 322))],
  ]);
  return (
    <main className="bench" style={{ gridTemplateColumns: `${left}px 7px minmax(0, 1fr) 7px ${right}px` }}>
      <aside className="rail" aria-label="In hand" hidden={left === 0}>
        {rail}
      </aside>
      <Divider name="left pane" width={left} grow={1} most={420} open={208} onWidth={setLeft} />
      <section className="board" id="board" aria-label="Board">
        {board}
      </section>
      <Divider name="right pane" width={right} grow={-1} most={760} open={322} onWidth={setRight} />
      <aside className="glass" aria-label="In focus" hidden={right === 0}>
        {glass}
      </aside>
      {foot && <footer className="foot">{foot}</footer>}
    </main>
  );
}

interface DividerProps {
  name: string;
  width: number;
  grow: 1 | -1;
  most: number;
  open: number;
  onWidth: (width: number) => void;
}

function Divider({ name, width, grow, most, open, onWidth }: DividerProps) {
  const set = (w: number) => onWidth(w < 120 ? 0 : Math.min(w, most));
  return (
    <div
      className="divider"
      role="separator"
      aria-orientation="vertical"
      aria-label={`Width of the ${name}`}
      aria-valuenow={width}
      aria-valuemin={0}
      aria-valuemax={most}
      tabIndex={0}
      onDoubleClick={() => onWidth(width ? 0 : open)}
      onKeyDown={(e) => {
        if (e.key === 'ArrowRight') set(Math.max(width, 110) + 20 * grow);
        else if (e.key === 'ArrowLeft') set(Math.max(width, 110) - 20 * grow);
        else if (e.key === 'Enter') onWidth(width ? 0 : open);
        else return;
        e.preventDefault();
      }}
      onPointerDown={(e) => {
        const from = e.clientX;
        const target = e.currentTarget;
        target.setPointerCapture(e.pointerId);
        target.onpointermove = (move) => set(width + (move.clientX - from) * grow);
        target.onpointerup = () => {
          target.onpointermove = null;
        };
      }}
    />
  );
}
