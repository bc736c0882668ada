import { useInfiniteQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useEffect, useMemo, useState } from 'react';
import type { Change, Touched } from '../../api/client';
import { fetchAll } from '../../api/pages';
import { changesQuery } from '../../api/queries';
import { rendererOf } from '../../subjects';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { copy } from '../../ui/copy';
import { Empty } from '../../ui/Empty';
import { Shape } from '../../ui/Grade';
import { say } from '../../words/messages';
import { t } from '../../words/words';

/** A line in focus, and what the lines touch. */
export interface InFocus {
  /** The plan that the line is of. */
  plan: number;
  change?: Change;
  touched: Touched;
}

export const nothingInFocus: InFocus = { plan: 0, touched: { owners: new Map(), assets: new Map(), paths: new Map() } };

interface Props {
  plan: number;
  total: number;
  left: boolean;
  onAt: (focus: InFocus) => void;
}

/** A plan's changes, thing by thing, before and after. More are fetched as one nears the end. */
export function ChangeLines({ plan, total, left, onAt }: Props) {
  const pages = useInfiniteQuery(changesQuery(plan, left));
  const changes = useMemo(() => pages.data?.pages.flatMap((p) => p.lines) ?? [], [pages.data]);
  const touched = useMemo(
    () => ({
      owners: new Map(pages.data?.pages.flatMap((p) => p.owners.map((o) => [o.id, o]))),
      assets: new Map(pages.data?.pages.flatMap((p) => p.assets.map((a) => [a.id, a.sha]))),
      paths: new Map(pages.data?.pages.flatMap((p) => p.assets.map((a) => [a.id, a.path ?? '']))),
    }),
    [pages.data],
  );
  const cols = useMemo(() => columns(touched), [touched]);
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const current = changes[at];
  useEffect(() => onAt({ plan, change: current, touched }), [plan, current, touched, onAt]);
  const isProduct = (c: Change) =>
    !rendererOf(c.subject).elsewhere && ['product', 'variant'].includes(touched.owners.get(c.id)?.kind ?? '');
  const open = (c: Change) => void navigate({ to: '/catalogue/$product', params: { product: String(c.id) } });
  const customer = (c: Change) =>
    void navigate({ to: '/catalogue/shop/$owner', params: { owner: String(c.id) }, search: { plan } });
  if (!pages.data) return <div className="hush">{t('plan.reading_changes')}</div>;
  if (changes.length === 0) return <Empty title={t(left ? 'plan.none_left' : 'plan.none')} />;
  return (
    <Board
      name="changes"
      label={left ? t('plan.left_lines') : t('plan.changes')}
      lines={changes}
      total={left ? -1 : total}
      height={52}
      narrowHeight={100}
      at={at}
      onAt={setAt}
      onAll={() => fetchAll(pages)}
      onMore={() => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage()}
      columns={cols}
      lineClass={(c) => (c.why ? 'faint' : undefined)}
      onOpen={(n) => changes[n] && isProduct(changes[n]) && open(changes[n])}
      acts={(c) => [
        {
          name: t('plan.as_customer'),
          key: 'c',
          does: () => customer(c),
          off: rendererOf(c.subject).elsewhere,
        },
        { name: t('plan.open_owner'), key: 'Enter', does: () => open(c), off: !isProduct(c) },
        { name: t('act.copy_sku'), key: 'Ctrl C', does: () => void copy(rendererOf(c.subject).name(c, touched).code) },
      ]}
      autoFocus
    />
  );
}

const columns = (touched: Touched): Column<Change>[] => [
  {
    id: 'owner',
    name: t('plan.what'),
    fixed: true,
    width: 'minmax(150px, 1fr)',
    className: 'two',
    cell: (change) => <Name change={change} touched={touched} />,
    text: (change) => rendererOf(change.subject).name(change, touched).code,
  },
  {
    id: 'before',
    name: t('column.before'),
    width: 'minmax(130px, 1fr)',
    className: 'side',
    wide: true,
    cell: (change) => {
      const { Side } = rendererOf(change.subject);
      return <Side change={change} side="before" touched={touched} />;
    },
    text: (change) => rendererOf(change.subject).text(change, 'before', touched),
  },
  {
    id: 'after',
    name: t('column.after'),
    width: 'minmax(150px, 1fr)',
    className: 'side',
    cell: (change) => {
      const { Side } = rendererOf(change.subject);
      return <Side change={change} side="after" touched={touched} />;
    },
    text: (change) => rendererOf(change.subject).text(change, 'after', touched),
  },
];

function Name({ change, touched }: { change: Change; touched: Touched }) {
  const { code, label } = rendererOf(change.subject).name(change, touched);
  return (
    <>
      <b className="mono clip">{code}</b>
      {change.why ? (
        <span className="clip wrong">
          <Shape grade="contested" /> {say(change.why)}
        </span>
      ) : (
        <span className="soft clip">{change.undone ? t('plan.undone_since') : label}</span>
      )}
    </>
  );
}
