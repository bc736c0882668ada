import { useHotkeys, useLocalStorage } from '@mantine/hooks';
import type { ReactNode } from 'react';
import { Group, Panel, Separator, usePanelRef } from 'react-resizable-panels';
import './Bench.css';

interface Props {
  rail: ReactNode;
  board: ReactNode;
  glass: ReactNode;
  foot?: ReactNode;
}

/** The three parts that every station has: rail, board, glass. The outer two resize and fold. */
export function Bench({ rail, board, glass, foot }: Props) {
  const left = useSide('ambrosa-rail', 208, 420);
  const right = useSide('ambrosa-glass', 322, 760);
  useHotkeys([
    ['[', left.fold],
    [']', right.fold],
  ]);
  return (
    <main className="bench">
      <Group className="panes" orientation="horizontal">
        <Panel id="rail" {...left.panel}>
          <aside className="rail" aria-label="In hand" hidden={left.folded}>
            {rail}
          </aside>
        </Panel>
        <Separator className="divider" aria-label="Width of the left pane" />
        <Panel id="board" minSize={200} data-testid="board">
          <section className="board" aria-label="Board">
            {board}
          </section>
        </Panel>
        <Separator className="divider" aria-label="Width of the right pane" />
        <Panel id="glass" {...right.panel}>
          <aside className="glass" aria-label="In focus" hidden={right.folded}>
            {glass}
          </aside>
        </Panel>
      </Group>
      {foot && <footer className="foot">{foot}</footer>}
    </main>
  );
}

/** One of the outer panes: its width in pixels is kept by the browser, 0 where it is folded. */
function useSide(key: string, open: number, most: number) {
  const [width, setWidth] = useLocalStorage({ key, defaultValue: open, getInitialValueInEffect: false });
  const panelRef = usePanelRef();
  return {
    folded: width === 0,
    fold: () => panelRef.current?.resize(width ? 0 : open),
    panel: {
      panelRef,
      defaultSize: width,
      minSize: 120,
      maxSize: most,
      collapsible: true,
      groupResizeBehavior: 'preserve-pixel-size' as const,
      onResize: ({ inPixels }: { inPixels: number }) => setWidth(Math.round(inPixels)),
    },
  };
}
