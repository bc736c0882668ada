import { useElementSize } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { hierarchy, treemap } from 'd3-hierarchy';
import { useMemo, useState } from 'react';
import type { Category } from '../../api/client';
import { categoriesQuery } from '../../api/queries';
import { coverageQuery, tidyQuery } from '../../api/tidy';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { count } from '../../ui/format';
import { named, t } from '../../words/words';

/** How complete a category is, with all below it. */
interface Node {
  id: number;
  title: string;
  path: string;
  owners: number;
  complete: number;
  children: Node[];
}

const share = (n: { owners: number; complete: number }) => (n.owners ? Math.round((100 * n.complete) / n.owners) : 100);

/** The catalogue as one drawing: categories as areas by how many owners they have, coloured by how complete they are; and as a table. */
export function Coverage({ go }: { go: (show: string, within?: number) => void }) {
  const categories = useQuery(categoriesQuery).data;
  const rows = useQuery(coverageQuery).data;
  const counts = useQuery(tidyQuery).data;
  const [within, setWithin] = useState(0);
  const [asTable, setAsTable] = useState(false);
  const root = useMemo(() => (categories && rows ? treeOf(categories, rows) : undefined), [categories, rows]);
  const here = root && find(root, within);
  if (!here || !counts) return <div className="hush">{t('tidy.reading')}</div>;
  if (here.owners === 0) return <Empty title={t('tidy.no_coverage')}>{t('tidy.no_coverage_what')}</Empty>;
  const open = (n: Node) => (n.children.length ? setWithin(n.id) : go('gap.no_main', n.id));
  return (
    <>
      <header className="top row">
        <div className="grow">
          <h1>{t('tidy.coverage')}</h1>
          <p className="soft">
            {t('tidy.coverage_what', {
              complete: count(here.complete),
              owners: count(here.owners),
              percent: share(here),
            })}
          </p>
        </div>
        {within > 0 && (
          <button type="button" className="button" onClick={() => setWithin(0)}>
            {t('tidy.whole_catalogue')}
          </button>
        )}
        <button type="button" className="button" onClick={() => setAsTable(!asTable)}>
          {t(asTable ? 'tidy.as_drawing' : 'tidy.as_table')}
        </button>
      </header>
      {asTable ? <Table root={here} open={open} /> : <Drawing root={here} open={open} />}
      {!asTable && (
        <p className="legend soft">
          {[0, 20, 50, 80, 100].map((p) => (
            <span key={p}>
              <i className={`area ${step(p)}`} /> {named(`tidy.legend_${p}`)}
            </span>
          ))}
        </p>
      )}
    </>
  );
}

/** How full an area is drawn: in steps, which differ in lightness as well as in colour. */
const step = (percent: number) =>
  percent >= 100 ? 'all' : percent >= 80 ? 'most' : percent >= 50 ? 'half' : percent >= 20 ? 'some' : 'few';

function Drawing({ root, open }: { root: Node; open: (n: Node) => void }) {
  const { ref, width, height } = useElementSize();
  const areas = useMemo(() => {
    if (width < 10 || height < 10) return [];
    // Two levels: the categories here, and those within each.
    const top = hierarchy<Node>(root, (n) => (n === root || root.children.includes(n) ? n.children : []))
      .sum((n) => (n.children.length && (n === root || root.children.includes(n)) ? own(n) : n.owners))
      .sort((a, b) => (b.value ?? 0) - (a.value ?? 0));
    return treemap<Node>()
      .size([width, height])
      .paddingTop((n) => (n.depth === 1 ? LEAST : 0))
      .paddingInner(2)
      .round(true)(top)
      .descendants()
      .slice(1);
  }, [root, width, height]);
  return (
    <div className="coverage" ref={ref}>
      {areas.map((a) => {
        const [wide, high] = [a.x1 - a.x0, a.y1 - a.y0];
        const says = t('tidy.area', {
          path: a.data.path,
          complete: a.data.complete,
          owners: a.data.owners,
          percent: share(a.data),
        });
        const look = {
          className: `area ${step(share(a.data))} depth${a.depth}${a.children ? ' holds' : ''}`,
          style: { left: a.x0, top: a.y0, width: wide, height: high },
          title: says,
        };
        // One too small to be hit is opened in the table, or from what holds it.
        return Math.min(wide, high) < LEAST ? (
          <span key={a.data.id} aria-hidden {...look} />
        ) : (
          <button
            key={a.data.id}
            type="button"
            aria-label={wide > 46 ? undefined : says}
            onClick={() => open(a.data)}
            {...look}
          >
            {wide > 46 && (
              <span className="clip">
                <b>{share(a.data)} %</b> {a.data.title}
              </span>
            )}
          </button>
        );
      })}
    </div>
  );
}

/** How many pixels a side of an area has at least, to be pointed at. */
const LEAST = 24;

/** What stands in a category itself, and not below it. */
const own = (n: Node) => n.owners - n.children.reduce((sum, c) => sum + c.owners, 0);

function Table({ root, open }: { root: Node; open: (n: Node) => void }) {
  const [at, setAt] = useState(0);
  const lines = useMemo(() => flat(root).slice(1), [root]);
  return (
    <Board
      name="coverage"
      label={t('tidy.coverage')}
      lines={lines}
      at={at}
      onAt={setAt}
      onOpen={(n) => lines[n] && open(lines[n])}
      columns={tableColumns()}
      autoFocus
    />
  );
}

const tableColumns = (): Column<Node>[] => [
  {
    id: 'path',
    name: t('tidy.category'),
    fixed: true,
    width: 'minmax(180px, 2fr)',
    className: 'clip',
    cell: (n) => n.path,
    text: (n) => n.path,
  },
  {
    id: 'owners',
    name: t('tidy.owners'),
    width: '90px',
    figures: true,
    cell: (n) => count(n.owners),
    text: (n) => n.owners,
  },
  {
    id: 'complete',
    name: t('tidy.complete'),
    width: '90px',
    figures: true,
    cell: (n) => count(n.complete),
    text: (n) => n.complete,
  },
  {
    id: 'share',
    name: t('tidy.share'),
    width: '80px',
    figures: true,
    cell: (n) => `${share(n)} %`,
    text: (n) => share(n),
  },
];

const flat = (n: Node): Node[] => [n, ...n.children.flatMap(flat)];
const find = (n: Node, id: number): Node | undefined =>
  n.id === id ? n : n.children.map((c) => find(c, id)).find((x) => x !== undefined);

/** The categories as a tree, each with the owners in it and below. Owners in none stand in one of their own. */
function treeOf(categories: Category[], rows: { category: number; owners: number; complete: number }[]): Node {
  const of = new Map(rows.map((r) => [r.category, r]));
  const below = Map.groupBy(
    categories.filter((c) => !c.retired),
    (c) => c.parent ?? 0,
  );
  const node = (id: number, title: string, path: string): Node => {
    const children = (below.get(id) ?? []).map((c) => node(c.id, c.title, path ? `${path} › ${c.title}` : c.title));
    const mine = id ? of.get(id) : undefined;
    return {
      id,
      title,
      path,
      children,
      owners: (mine?.owners ?? 0) + children.reduce((s, c) => s + c.owners, 0),
      complete: (mine?.complete ?? 0) + children.reduce((s, c) => s + c.complete, 0),
    };
  };
  const root = node(0, t('tidy.coverage'), '');
  const none = of.get(0);
  if (none) {
    root.children.push({
      id: -1,
      title: t('tidy.no_category'),
      path: t('tidy.no_category'),
      owners: none.owners,
      complete: none.complete,
      children: [],
    });
    root.owners += none.owners;
    root.complete += none.complete;
  }
  return root;
}
