import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { I18nProvider } from '@lingui/react';
import { RouterProvider } from '@tanstack/react-router';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Refused, wordBy } from './api/call';
import { fetchPages, router } from './app/router';
import { applyTheme } from './app/theme';
import { i18n } from './base/language';
import { say } from './base/say';
import './style.css';

applyTheme();
fetchPages();
wordBy(say);

// A session that has ended leads to the sign-in page, wherever it is noticed.
const noticed = (e: unknown) => {
  if (e instanceof Refused && e.status === 401) queries.setQueryData(['me'], null);
};
const queries = new QueryClient({
  queryCache: new QueryCache({ onError: noticed }),
  mutationCache: new MutationCache({ onError: noticed }),
  defaultOptions: {
    queries: {
      staleTime: 2000,
      retry: (n, e) => n < 2 && !(e instanceof Refused && e.status >= 400 && e.status < 500),
      refetchOnWindowFocus: true,
    },
  },
});

const el = document.getElementById('root');
if (el) {
  createRoot(el).render(
    <StrictMode>
      <I18nProvider i18n={i18n}>
        <QueryClientProvider client={queries}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </I18nProvider>
    </StrictMode>,
  );
}
