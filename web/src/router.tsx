import type { QueryClient } from '@tanstack/react-query';
import { createRootRouteWithContext, createRoute, createRouter, redirect } from '@tanstack/react-router';
import { Catalogue } from './stations/catalogue/Catalogue';
import { Gather } from './stations/gather/Gather';
import { Later } from './stations/later/Later';
import { Ledger } from './stations/ledger/Ledger';
import { Pair } from './stations/pair/Pair';
import { PairPick } from './stations/pair/PairPick';
import { PlanSheet } from './stations/plan/PlanSheet';
import { Shell } from './ui/Shell';

/** What of a screen stands in the address, so that a link shows a colleague the same thing. */
export interface Where {
  show?: string;
  at?: number;
  q?: string;
  in?: number;
  view?: 'owner';
}

const where = (search: Record<string, unknown>): Where => {
  const out: Where = {};
  if (typeof search.show === 'string') out.show = search.show;
  if (typeof search.q === 'string' || typeof search.q === 'number') out.q = String(search.q);
  if (search.view === 'owner') out.view = 'owner';
  if (Number.isInteger(Number(search.at)) && search.at !== undefined) out.at = Number(search.at);
  if (Number.isInteger(Number(search.in)) && search.in !== undefined) out.in = Number(search.in);
  return out;
};

const root = createRootRouteWithContext<{ queries: QueryClient }>()({ component: Shell, validateSearch: where });
const at = <P extends string>(path: P, component: () => React.ReactNode) =>
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
    at('/gather', Gather),
    at('/pair', PairPick),
    at('/pair/$delivery', Pair),
    at('/plan/$plan', PlanSheet),
    at('/sheets', () => <Later station="Sheets" />),
    at('/catalogue', Catalogue),
    at('/catalogue/$product', Catalogue),
    at('/tidy', () => <Later station="Tidy" />),
    at('/ledger', Ledger),
    at('/ledger/$run', Ledger),
  ]),
  context: { queries: undefined as unknown as QueryClient },
  defaultPreload: false,
});

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router;
  }
}
