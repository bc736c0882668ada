import { useLocalStorage, useMediaQuery } from '@mantine/hooks';
import { lazy, type ReactNode, Suspense, useEffect, useRef } from 'react';
import { Group, Panel, Separator, usePanelRef } from 'react-resizable-panels';
import { t } from '../words/words';
import { covered, useKeys } from './useKeys';
import './Bench.css';

const BenchSmall = lazy(() => import('./BenchSmall').then((m) => ({ default: m.BenchSmall })));

export interface BenchParts {
  rail: ReactNode;
  board: ReactNode;
  glass: ReactNode;
  foot?: ReactNode;
}

/** The three parts that every station has: rail, board, glass. The outer two resize and fold; on a small page they are sheets. */
export function Bench(p: BenchParts) {
  const small = useMediaQuery('(max-width: 900px), (max-height: 420px)', undefined, { getInitialValueInEffect: false });
  const main = useFocusKept();
  return (
    <main className="bench" ref={main}>
      {small ? (
        <Suspense fallback={<div className="hush">{t('page.opening')}</div>}>
          <BenchSmall {...p} />
        </Suspense>
      ) : (
        <Large {...p} />
      )}
      {p.foot && <footer className="foot">{p.foot}</footer>}
    </main>
  );
}

function Large({ rail, board, glass }: BenchParts) {
  const left = useSide('ambrosa-rail', 208, 420);
  const right = useSide('ambrosa-glass', 322, 760);
  useKeys([
    ['[', left.fold],
    ['r', left.fold],
    [']', right.fold],
    ['g', right.fold],
  ]);
  return (
    <Group className="panes" orientation="horizontal">
      <Panel id="rail" {...left.panel}>
        <aside className="rail" aria-label={t('page.left')} hidden={left.folded}>
          {rail}
        </aside>
      </Panel>
      <Separator className="divider" aria-label={t('page.width_left')} />
      <Panel id="boardpane" minSize={200} data-testid="board">
        <section className="board" aria-label={t('page.board')}>
          {board}
        </section>
      </Panel>
      <Separator className="divider" aria-label={t('page.width_right')} />
      <Panel id="glass" {...right.panel}>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard */}
        <aside className="glass" aria-label={t('page.right')} hidden={right.folded} tabIndex={0}>
          {glass}
        </aside>
      </Panel>
    </Group>
  );
}

/** The focus never falls to the page: where what had it is gone, as a button after its act, the board has it. */
function useFocusKept() {
  const main = useRef<HTMLElement>(null);
  const inside = useRef(false);
  useEffect(() => {
    const note = () => {
      const at = document.activeElement;
      if (!at || at === document.body) return;
      inside.current = main.current?.contains(at) || at.closest('[role=dialog], [role=menu]') !== null;
    };
    document.addEventListener('focusin', note);
    return () => document.removeEventListener('focusin', note);
  }, []);
  useEffect(() => {
    if (inside.current && document.activeElement === document.body && !covered()) {
      main.current?.querySelector<HTMLElement>('[role=grid]')?.focus({ preventScroll: true });
    }
  });
  return main;
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
