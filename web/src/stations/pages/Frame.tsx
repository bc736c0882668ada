import { type KeyboardEvent, type MouseEvent, useCallback, useEffect, useRef, useState } from 'react';
import { t } from '../../words/words';

interface Box {
  top: number;
  left: number;
  width: number;
  height: number;
}

interface Props {
  html: string;
  /** Numbers of the elements that are marked, and of those that were pointed at. */
  marked: number[];
  pointed: number[];
  onPoint: (number: number) => void;
}

const HIGHEST = 16_000;
const POINTABLE = 'img,a,h1,h2,h3,h4,p,li,td,b,strong,span,div[style]';

/**
 * A page as it came, in a frame that runs no scripts. A sheet lies over it, so that pointing reaches this page and not that one: by mouse, or with
 * the arrow keys from element to element and Enter.
 */
export function Frame({ html, marked, pointed, onPoint }: Props) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [height, setHeight] = useState(600);
  const [boxes, setBoxes] = useState<{ marked: Box[]; pointed: Box[] }>({ marked: [], pointed: [] });
  const [over, setOver] = useState<{ number: number; box: Box }>();
  const inside = () => frame.current?.contentDocument;

  const measure = useCallback(() => {
    const page = frame.current?.contentDocument;
    if (!page?.body) return;
    setHeight((h) => Math.min(HIGHEST, Math.max(h, page.body.scrollHeight)));
    const boxesOf = (numbers: number[]) =>
      numbers.flatMap((n) => [...page.querySelectorAll(`[data-n="${n}"]`)].slice(0, 1).map(boxOf));
    setBoxes({ marked: boxesOf(marked), pointed: boxesOf(pointed) });
  }, [marked, pointed]);
  useEffect(measure, [measure]);

  const loaded = () => {
    measure();
    inside()?.addEventListener('load', measure, true); // pictures come later and move what stands below
  };
  const at = (event: MouseEvent<HTMLElement>) => {
    const sheet = event.currentTarget.getBoundingClientRect();
    const found = inside()?.elementFromPoint(event.clientX - sheet.left, event.clientY - sheet.top);
    return found?.closest('[data-n]') ?? undefined;
  };
  const look = (element?: Element) =>
    setOver(element && { number: Number(element.getAttribute('data-n')), box: boxOf(element) });
  const move = (event: KeyboardEvent<HTMLElement>) => {
    const step = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (step) {
      event.preventDefault();
      const all = [...(inside()?.querySelectorAll(POINTABLE) ?? [])].filter((e) => e.hasAttribute('data-n'));
      const now = all.findIndex((e) => Number(e.getAttribute('data-n')) === over?.number);
      const next = all[Math.max(0, Math.min(all.length - 1, now + step))];
      look(next);
      if (next) event.currentTarget.parentElement?.parentElement?.scrollTo({ top: boxOf(next).top - 120 });
    }
    if (event.key === 'Enter' && over) onPoint(over.number);
  };
  return (
    <div className="pageframe" style={{ height }}>
      {/* biome-ignore lint/a11y/noNoninteractiveElementInteractions: that it is loaded is no interaction */}
      <iframe
        ref={frame}
        title={t('pages.page_as_fetched')}
        sandbox="allow-same-origin"
        srcDoc={html}
        tabIndex={-1}
        style={{ height }}
        onLoad={loaded}
      />
      {/* biome-ignore lint/a11y/useSemanticElements: it is a sheet over a page, and no button's face */}
      <div
        className="sheet"
        role="button"
        tabIndex={0}
        aria-label={t('pages.point_here', { number: over?.number ?? 0 })}
        onMouseMove={(e) => look(at(e))}
        onMouseLeave={() => setOver(undefined)}
        onClick={(e) => {
          const element = at(e);
          if (element) onPoint(Number(element.getAttribute('data-n')));
        }}
        onKeyDown={move}
      >
        {boxes.marked.map((b) => (
          <i key={`${b.top} ${b.left} ${b.width}`} className="marked" style={b} />
        ))}
        {boxes.pointed.map((b, n) => (
          <i key={`${b.top} ${b.left} ${b.width}`} className="pointed" style={b}>
            <b>{n + 1}</b>
          </i>
        ))}
        {over && <i className="over" style={over.box} />}
      </div>
    </div>
  );
}

/** Where an element stands. One that holds only an image it does not show, as a link, is as large as that. */
function boxOf(element: Element): Box {
  let { top, left, width, height } = element.getBoundingClientRect();
  if (width < 2 || height < 2) {
    const child = element.firstElementChild?.getBoundingClientRect();
    if (child) ({ top, left, width, height } = child);
  }
  return { top, left, width: Math.max(width, 8), height: Math.max(height, 8) };
}
