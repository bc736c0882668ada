import { useQuery } from '@tanstack/react-query';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useMemo } from 'react';
import type { Category } from '../../api/client';
import { catalogueQuery, categoriesQuery } from '../../api/queries';
import { Filter } from '../../ui/Filter';
import { t } from '../../words/words';

export type View = 'products' | 'pictures' | 'categories' | 'wording';

const PATHS = {
  products: '/catalogue',
  pictures: '/catalogue/pictures',
  categories: '/catalogue/categories',
  wording: '/catalogue/wording',
} as const;

/** The rail of all views of the catalogue: which view, which of it, and in which category. */
export function CatalogueRail({ view, children }: { view: View; children?: React.ReactNode }) {
  const search = useSearch({ strict: false });
  const navigate = useNavigate();
  const counts = useQuery(catalogueQuery).data;
  const categories = useQuery(categoriesQuery).data;
  const tree = useMemo(() => paths((categories ?? []).filter((c) => !c.retired)), [categories]);
  const go = (part: { in?: number; show?: string }) =>
    void navigate({
      to: PATHS[view],
      search: { q: search.q, in: search.in, show: search.show, ...part },
      replace: true,
    });
  const only = (show: string) => go({ show: search.show === show ? undefined : show });
  return (
    <>
      <h2 className="railhead">{t('catalogue.views')}</h2>
      {(Object.keys(PATHS) as View[]).map((v) => (
        <Filter
          key={v}
          name={t(`catalogue.view_${v}`)}
          on={v === view}
          onClick={() => void navigate({ to: PATHS[v], search: { q: search.q, in: search.in } })}
        />
      ))}
      {children}
      {counts && view !== 'wording' && (
        <>
          <h2 className="railhead">{t(view === 'categories' ? 'catalogue.categories' : 'catalogue.products')}</h2>
          <Filter
            name={t('catalogue.all')}
            count={view === 'categories' ? counts.categories : counts.products}
            on={!search.in && !search.show}
            onClick={() => go({ in: undefined, show: undefined })}
          />
          <Filter
            name={t('catalogue.without')}
            count={view === 'categories' ? undefined : counts.without}
            on={search.show === 'without'}
            onClick={() => only('without')}
          />
          {view === 'products' && (
            <Filter
              name={t('catalogue.ending')}
              on={search.show === 'ending'}
              onClick={() => go({ in: undefined, show: search.show === 'ending' ? undefined : 'ending' })}
            />
          )}
          {view !== 'categories' && counts.retired > 0 && (
            <Filter
              name={t('catalogue.retired')}
              count={counts.retired}
              on={search.show === 'retired'}
              onClick={() => go({ in: undefined, show: search.show === 'retired' ? undefined : 'retired' })}
            />
          )}
        </>
      )}
      {tree.length > 0 && <h2 className="railhead">{t('catalogue.within')}</h2>}
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
  );
}

export interface Branch {
  category: Category;
  depth: number;
  products: number;
}

/** Categories as a tree, each with the products in it and below. */
export function paths(categories: Category[]): Branch[] {
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

/** Categories to choose from in a form, set in by their depth. */
export const choices = (categories: Category[]) =>
  paths(categories).map(({ category, depth }) => ({
    value: String(category.id),
    label: `${'– '.repeat(depth)}${category.title}`,
  }));
