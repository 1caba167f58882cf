import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useSyncExternalStore } from 'react';

/** When the oldest of what is shown was answered last, if asking for it again has failed. */
export function useFailed(): number | undefined {
  const queries = useQueryClient();
  const cache = queries.getQueryCache();
  return useSyncExternalStore(
    useCallback((f) => cache.subscribe(f), [cache]),
    () => {
      let oldest: number | undefined;
      for (const q of cache.getAll()) {
        if (q.state.status !== 'error' || q.state.data === undefined || !q.isActive() || q.queryKey[0] === 'me') continue;
        oldest = Math.min(oldest ?? Infinity, q.state.dataUpdatedAt);
      }
      return oldest;
    },
  );
}
