import type { QueryClient } from '@tanstack/react-query';
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  lazyRouteComponent,
  type RouteComponent,
  redirect,
} from '@tanstack/react-router';
import { Shell } from './ui/Shell';
import { withWords } from './words/words';

/** What of a screen stands in the address, so that a link shows a colleague the same thing. */
export interface Where {
  show?: string;
  at?: number;
  q?: string;
  in?: number;
  view?: 'owner' | 'series' | 'categories' | 'lines';
  /** The column that lines are sorted by; with a minus before it, downwards. */
  sort?: string;
  /** The house rule. */
  rule?: string;
  /** Which text of pictures, and in which language. */
  field?: string;
  lang?: string;
  /** A plan, and whether things are shown before or after it. */
  plan?: number;
  side?: string;
}

const VIEWS = ['owner', 'series', 'categories', 'lines'];

const where = (search: Record<string, unknown>): Where => {
  const out: Where = {};
  if (typeof search.show === 'string') out.show = search.show;
  if (typeof search.q === 'string' || typeof search.q === 'number') out.q = String(search.q);
  if (typeof search.sort === 'string') out.sort = search.sort;
  if (typeof search.rule === 'string') out.rule = search.rule;
  if (VIEWS.includes(search.view as string)) out.view = search.view as Where['view'];
  if (typeof search.field === 'string') out.field = search.field;
  if (typeof search.lang === 'string') out.lang = search.lang;
  if (typeof search.side === 'string') out.side = search.side;
  if (Number.isInteger(Number(search.plan)) && search.plan !== undefined) out.plan = Number(search.plan);
  if (Number.isInteger(Number(search.at)) && search.at !== undefined) out.at = Number(search.at);
  if (Number.isInteger(Number(search.in)) && search.in !== undefined) out.in = Number(search.in);
  return out;
};

const root = createRootRouteWithContext<{ queries: QueryClient }>()({ component: Shell, validateSearch: where });
const at = <P extends string>(path: P, component: RouteComponent) =>
  createRoute({ getParentRoute: () => root, path, component });

const index = createRoute({
  getParentRoute: () => root,
  path: '/',
  beforeLoad: () => {
    throw redirect({ to: '/gather' });
  },
});

export const router = createRouter({
  routeTree: root.addChildren([
    index,
    at(
      '/gather',
      lazyRouteComponent(() => withWords('gather', import('./stations/gather/Gather')), 'Gather'),
    ),
    at(
      '/gather/page',
      lazyRouteComponent(() => withWords('pages', withWords('gather', import('./stations/pages/ByEye'))), 'ByEye'),
    ),
    at(
      '/gather/$source',
      lazyRouteComponent(() => withWords('gather', import('./stations/sources/Sources')), 'Sources'),
    ),
    at(
      '/pair',
      lazyRouteComponent(() => import('./stations/pair/PairPick'), 'PairPick'),
    ),
    at(
      '/pair/$delivery',
      lazyRouteComponent(() => import('./stations/pair/Pair'), 'Pair'),
    ),
    at(
      '/plan/$plan',
      lazyRouteComponent(() => withWords('ledger', import('./stations/plan/PlanSheet')), 'PlanSheet'),
    ),
    at(
      '/tables',
      lazyRouteComponent(() => withWords('tables', import('./stations/tables/Tables')), 'Tables'),
    ),
    at(
      '/tables/$table',
      lazyRouteComponent(() => withWords('tables', import('./stations/tables/Tables')), 'Tables'),
    ),
    at(
      '/catalogue',
      lazyRouteComponent(() => withWords('catalogue', import('./stations/catalogue/Catalogue')), 'Catalogue'),
    ),
    at(
      '/catalogue/pictures',
      lazyRouteComponent(() => withWords('catalogue', import('./stations/hand/Hand')), 'Pictures'),
    ),
    at(
      '/catalogue/categories',
      lazyRouteComponent(() => withWords('catalogue', import('./stations/hand/Hand')), 'Categories'),
    ),
    at(
      '/catalogue/wording',
      lazyRouteComponent(() => withWords('catalogue', import('./stations/wording/Wording')), 'Wording'),
    ),
    at(
      '/catalogue/shop/$owner',
      lazyRouteComponent(() => withWords('catalogue', import('./stations/shop/Shop')), 'Shop'),
    ),
    at(
      '/catalogue/$product',
      lazyRouteComponent(() => withWords('catalogue', import('./stations/catalogue/Catalogue')), 'Catalogue'),
    ),
    at(
      '/tidy',
      lazyRouteComponent(() => withWords('tidy', withWords('pictures', import('./stations/tidy/Tidy'))), 'Tidy'),
    ),
    at(
      '/publish',
      lazyRouteComponent(
        () => withWords('gather', withWords('ledger', withWords('publish', import('./stations/publish/Publish')))),
        'Publish',
      ),
    ),
    at(
      '/pictures',
      lazyRouteComponent(() => withWords('pictures', import('./stations/pictures/Pictures')), 'Pictures'),
    ),
    at(
      '/ledger',
      lazyRouteComponent(() => withWords('ledger', import('./stations/ledger/Ledger')), 'Ledger'),
    ),
    at(
      '/ledger/$run',
      lazyRouteComponent(() => withWords('ledger', import('./stations/ledger/Ledger')), 'Ledger'),
    ),
    at(
      '/people',
      lazyRouteComponent(() => withWords('me', withWords('people', import('./stations/people/People'))), 'People'),
    ),
    at(
      '/pieces',
      lazyRouteComponent(() => withWords('pieces', import('./stations/pieces/Pieces')), 'Pieces'),
    ),
    at(
      '/settings',
      lazyRouteComponent(
        () => withWords('me', withWords('people', import('./stations/settings/Settings'))),
        'Settings',
      ),
    ),
  ]),
  context: { queries: undefined as unknown as QueryClient },
  defaultPreload: false,
});

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router;
  }
}
