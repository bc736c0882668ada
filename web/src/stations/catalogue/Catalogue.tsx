import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { lazy, Suspense, useMemo, useRef } from 'react';
import type { Product } from '../../api/client';
import { useProducts } from '../../api/pages';
import { cardQuery, catalogueQuery, categoriesQuery } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { copy } from '../../ui/copy';
import { Empty } from '../../ui/Empty';
import { FilterField } from '../../ui/FilterField';
import { openPicture } from '../../ui/openPicture';
import { useMayEdit } from '../../ui/session';
import { Thumb } from '../../ui/Thumb';
import { useKeys } from '../../ui/useKeys';
import { useTitle } from '../../ui/useTitle';
import { t, withWords } from '../../words/words';
import { CatalogueRail } from '../hand/CatalogueRail';
import { ShotsButton } from '../shots/ShotsButton';
import { SendTable } from '../tables/SendTable';
import { ProductGlass } from './ProductGlass';

/** What a product without a picture may get. */
const OwnerGlass = lazy(() =>
  withWords('tidy', withWords('pictures', import('../tidy/OwnerGlass'))).then((m) => ({ default: m.OwnerGlass })),
);

/** The station that proves it: products, and each as a customer would see it. */
export function Catalogue() {
  const { product: chosen } = useParams({ strict: false });
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const counts = useQuery(catalogueQuery).data;
  const categories = useQuery(categoriesQuery).data;
  const card = useQuery(cardQuery(Number(chosen ?? 0))).data;
  const field = useRef<HTMLInputElement>(null);
  const cols = useMemo(columns, []);
  const filter = () => field.current?.focus();
  useKeys([
    ['/', filter, { preventDefault: true }],
    ['f', filter, { preventDefault: true }],
  ]);
  useTitle('catalogue', card?.title);
  const [q] = useDebouncedValue(search.q?.trim() || undefined, 150);
  const products = useProducts({
    in: search.in,
    without: search.show === 'without',
    ending: search.show === 'ending',
    retired: search.show === 'retired',
    q,
  });
  const lines = products.all ?? [];
  // A variant's address shows its product with that variant chosen.
  const focus = card?.parent ?? Number(chosen ?? lines[0]?.id ?? 0);
  const at = lines.findIndex((p) => p.id === focus);
  const go = (part: { q?: string; in?: number; show?: string }) =>
    void navigate({
      to: '/catalogue',
      search: { q: search.q, in: search.in, show: search.show, ...part },
      replace: true,
    });
  const customer = (p: Product) => void navigate({ to: '/catalogue/shop/$owner', params: { owner: String(p.id) } });
  if (!products.all || !counts) return <div className="hush">{t('catalogue.reading')}</div>;
  return (
    <Bench
      rail={<CatalogueRail view="products" />}
      board={
        <>
          <header className="top row">
            <div className="grow">
              <h1>{t('station.catalogue')}</h1>
              <p className="soft">
                {products.whole
                  ? t('catalogue.count', { count: lines.length })
                  : t('catalogue.first', { n: lines.length })}
              </p>
            </div>
            <FilterField ref={field} label={t('catalogue.filter')} value={search.q ?? ''} onChange={(q) => go({ q })} />
            <ShotsButton
              of={{ category: search.in }}
              title={categories?.find((c) => c.id === search.in)?.title ?? t('station.catalogue')}
              name={t('catalogue.shots')}
            />
            <a className="button" href="/api/catalogue/file" download>
              {t('catalogue.export')}
            </a>
            {mayEdit && <SendTable name={t('catalogue.import')} />}
          </header>
          {lines.length > 0 ? (
            <Board
              name="products"
              label={t('catalogue.products')}
              lines={lines}
              total={products.whole ? lines.length : -1}
              at={at}
              onMore={products.more}
              onAll={products.fetchAll}
              onAt={(n) =>
                void navigate({
                  to: '/catalogue/$product',
                  params: { product: String(lines[n]?.id) },
                  search: { q: search.q, in: search.in, show: search.show },
                  replace: true,
                })
              }
              columns={cols}
              onOpen={(n) => lines[n] && customer(lines[n])}
              acts={(p) => acts(p, customer)}
              autoFocus={!search.q}
            />
          ) : counts.products ? (
            <Empty title={t('catalogue.no_such')} />
          ) : (
            <Empty title={t('catalogue.empty')}>
              <p>{t('catalogue.empty_what')}</p>
            </Empty>
          )}
        </>
      }
      glass={
        focus > 0 &&
        (search.show === 'without' ? (
          <Suspense>
            <OwnerGlass key={focus} owner={focus} />
          </Suspense>
        ) : (
          <>
            <ProductGlass key={focus} product={focus} variant={card?.kind === 'variant' ? card.id : undefined} />
            <p className="row wrapping">
              <Link to="/catalogue/shop/$owner" params={{ owner: String(focus) }}>
                {t('catalogue.as_customer')}
              </Link>
              {mayEdit && lines[at] && (
                <Link to="/catalogue/pictures" search={{ q: lines[at].sku, at: focus }}>
                  {t('catalogue.by_hand')}
                </Link>
              )}
            </p>
          </>
        ))
      }
    />
  );
}

/** What can be done with a product from its line. */
const acts = (p: Product, customer: (p: Product) => void) => [
  { name: t('catalogue.as_customer'), key: 'Enter', does: () => customer(p) },
  { name: t('act.copy_sku'), key: 'Ctrl C', does: () => void copy(p.sku) },
  { name: t('act.copy_title'), does: () => void copy(p.title) },
  { name: t('look.open'), does: () => openPicture(p.picture), off: !p.picture },
];

/** What is seen of a product. */
const columns = (): Column<Product>[] => [
  {
    id: 'picture',
    name: t('column.picture'),
    quiet: true,
    fixed: true,
    width: '44px',
    cell: (p) => <Thumb sha={p.picture} size={36} />,
  },
  {
    id: 'sku',
    name: t('column.sku'),
    fixed: true,
    width: 'minmax(110px, 0.8fr)',
    className: 'mono clip',
    cell: (p) => <b>{p.sku}</b>,
    text: (p) => p.sku,
  },
  {
    id: 'title',
    name: t('column.title'),
    width: 'minmax(120px, 1.4fr)',
    className: 'clip',
    cell: (p) => p.title,
    text: (p) => p.title,
  },
  {
    id: 'variants',
    name: t('column.variants'),
    width: '72px',
    figures: true,
    wide: true,
    cell: (p) => p.variants,
    text: (p) => p.variants,
  },
  {
    id: 'pictures',
    name: t('column.pictures'),
    width: '72px',
    figures: true,
    wide: true,
    cell: (p) => p.pictures || '–',
    text: (p) => p.pictures,
  },
  {
    id: 'on_variants',
    name: t('column.on_variants'),
    width: '92px',
    figures: true,
    wide: true,
    cell: (p) => p.variantPictures || '–',
    text: (p) => p.variantPictures,
  },
];
