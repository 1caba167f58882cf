import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { RouterProvider } from '@tanstack/react-router';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Refused, wordBy } from './api/call';
import { fetchPages, router } from './app/router';
import { applyTheme } from './app/theme';
import { say, speak } from './base/say';
import './style.css';

applyTheme();
fetchPages();
wordBy(say);
// Until its patterns are here, what the server says is said in its own English.
void import('./locales/server/en.po').then(({ messages }) => speak(messages));

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
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
