import '@fontsource/atkinson-hyperlegible/latin-400.css';
import '@fontsource/atkinson-hyperlegible/latin-700.css';
import '@fontsource/atkinson-hyperlegible/latin-ext-400.css';
import '@fontsource/atkinson-hyperlegible/latin-ext-700.css';
import '@fontsource/atkinson-hyperlegible-mono/latin-400.css';
import '@fontsource/atkinson-hyperlegible-mono/latin-700.css';
import '@fontsource/atkinson-hyperlegible-mono/latin-ext-400.css';
import '@mantine/core/styles.css';
import '@mantine/notifications/styles.css';
import './ui/look/index.css';
import { MantineProvider } from '@mantine/core';
import { MutationCache, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { RouterProvider } from '@tanstack/react-router';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { Refusal } from './api/client';
import { router } from './router';
import { theme, variables } from './theme';
import { complain } from './ui/complain';
import { useLanguage } from './words/words';

/** A question is asked once more where the server did not answer; what it refused, it refuses again. */
const again = (times: number, error: Error) =>
  times < 1 && !(error instanceof Refusal && error.status >= 400 && error.status < 500);

const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: 30_000, retry: again, refetchOnWindowFocus: false } },
  mutationCache: new MutationCache({
    onError: (error, _in, _context, mutation) => {
      if (!mutation.meta?.quiet) complain(error);
    },
  }),
});

const Notifications = lazy(() => import('@mantine/notifications').then((m) => ({ default: m.Notifications })));

/** Another language draws everything again. */
function Pages() {
  const language = useLanguage();
  return <RouterProvider key={language} router={router} context={{ queries }} />;
}

const root = document.getElementById('root');
if (!root) throw new Error('index.html has no root');
createRoot(root).render(
  <StrictMode>
    <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
      <QueryClientProvider client={queries}>
        <Suspense>
          <Notifications position="bottom-left" autoClose={4000} />
        </Suspense>
        <Pages />
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
