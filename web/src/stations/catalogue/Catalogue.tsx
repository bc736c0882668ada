import { TextInput } from '@mantine/core';
import { useDebouncedValue, useHotkeys } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { useMemo, useRef } from 'react';
import type { Category } from '../../api/client';
import { useProducts } from '../../api/pages';
import { cardQuery, catalogueQuery, categoriesQuery } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { count, plural } from '../../ui/format';
import { Thumb } from '../../ui/Thumb';
import { ImportButton } from './ImportButton';
import { ProductGlass } from './ProductGlass';

/** The station that proves it: products, and each as a customer would see it. */
export function Catalogue() {
  const { product: chosen } = useParams({ strict: false });
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const counts = useQuery(catalogueQuery).data;
  const categories = useQuery(categoriesQuery).data;
  const card = useQuery(cardQuery(Number(chosen ?? 0))).data;
  const field = useRef<HTMLInputElement>(null);
  useHotkeys([['/', () => field.current?.focus()]]);
  const tree = useMemo(() => paths(categories ?? []), [categories]);
  const [q] = useDebouncedValue(search.q?.trim() || undefined, 150);
  const products = useProducts({ in: search.in, without: search.show === 'without', q });
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
  if (!products.all || !counts) return <div className="hush">Reading the catalogue …</div>;
  return (
    <Bench
      rail={
        <>
          <h2 className="railhead">Products</h2>
          <Filter
            name="✱ all"
            count={counts.products}
            on={!search.in && !search.show}
            onClick={() => go({ in: undefined, show: undefined })}
          />
          <Filter
            name="without a picture"
            count={counts.without}
            on={search.show === 'without'}
            onClick={() => go({ show: search.show ? undefined : 'without' })}
          />
          {tree.length > 0 && <h2 className="railhead">Categories</h2>}
          {tree.map((c) => (
            <Filter
              key={c.category.id}
              quiet={c.depth > 0}
              name={<span style={{ paddingLeft: c.depth * 12 }}>{c.category.title}</span>}
              count={c.products}
              on={search.in === c.category.id}
              onClick={() => go({ in: search.in === c.category.id ? undefined : c.category.id })}
            />
          ))}
        </>
      }
      board={
        <>
          <header className="top row">
            <div className="grow">
              <h1>Catalogue</h1>
              <p className="soft">
                {products.whole ? plural(lines.length, 'product') : `the first ${count(lines.length)}`}
              </p>
            </div>
            <TextInput
              ref={field}
              className="filterfield"
              aria-label="Filter products by title or SKU"
              placeholder="Filter by title or SKU"
              rightSection={<kbd>/</kbd>}
              value={search.q ?? ''}
              onChange={(e) => go({ q: e.currentTarget.value || undefined })}
              onKeyDown={(e) => {
                if (e.key === 'Enter' || e.key === 'Escape')
                  document.querySelector<HTMLElement>('.lines .scroll')?.focus();
              }}
            />
            <ImportButton />
          </header>
          {lines.length > 0 ? (
            <Board
              label="Products"
              lines={lines.length}
              height={46}
              at={at}
              onMore={products.more}
              onAt={(n) =>
                void navigate({
                  to: '/catalogue/$product',
                  params: { product: String(lines[n]?.id) },
                  search: { q: search.q, in: search.in, show: search.show },
                  replace: true,
                })
              }
              columns="44px minmax(110px, 0.8fr) minmax(140px, 1.4fr) 72px 72px 92px"
              head={
                <>
                  <span />
                  <span>SKU</span>
                  <span>Title</span>
                  <span className="figures">Variants</span>
                  <span className="figures">Pictures</span>
                  <span className="figures">On variants</span>
                </>
              }
              line={(i) => {
                const p = lines[i];
                return p ? (
                  <>
                    <span role="gridcell">
                      <Thumb sha={p.picture} size={36} />
                    </span>
                    <span role="gridcell" className="mono clip">
                      <b>{p.sku}</b>
                    </span>
                    <span role="gridcell" className="clip">
                      {p.title}
                    </span>
                    <span role="gridcell" className="figures">
                      {p.variants}
                    </span>
                    <span role="gridcell" className="figures">
                      {p.pictures || '–'}
                    </span>
                    <span role="gridcell" className="figures">
                      {p.variantPictures || '–'}
                    </span>
                  </>
                ) : null;
              }}
              autoFocus={!search.q}
            />
          ) : counts.products ? (
            <Empty title="No product is like this." />
          ) : (
            <Empty title="The catalogue is empty.">
              <p>
                Bring in a products table: a CSV whose first row names the columns sku, product, title, barcode and
                category, and any others as options such as colour or size. You see the plan before anything is written.
              </p>
            </Empty>
          )}
        </>
      }
      glass={
        focus > 0 && (
          <ProductGlass key={focus} product={focus} variant={card?.kind === 'variant' ? card.id : undefined} />
        )
      }
    />
  );
}

interface Branch {
  category: Category;
  depth: number;
  products: number;
}

/** Categories as a tree, each with the products in it and below. */
function paths(categories: Category[]): Branch[] {
  const children = Map.groupBy(categories, (c) => c.parent ?? 0);
  const out: Branch[] = [];
  const walk = (parent: number, depth: number): number => {
    let products = 0;
    for (const category of children.get(parent) ?? []) {
      const branch = { category, depth, products: category.products };
      out.push(branch);
      branch.products += walk(category.id, depth + 1);
      products += branch.products;
    }
    return products;
  };
  walk(0, 0);
  return out;
}
