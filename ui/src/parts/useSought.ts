import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';

/**
 * Finds what somebody typed and did not wait for. `done` gets the first hit, or none, once there
 * is an answer; while the server does not answer it is asked again, and the error says so.
 */
export function useSought<T>(
  text: string | undefined,
  findKey: string,
  find: (q: string) => Promise<T[]>,
  done: (hit: T | undefined) => void,
): Error | null {
  const found = useQuery({
    queryKey: ['search', findKey, text],
    queryFn: () => find(text ?? ''),
    enabled: text !== undefined,
    staleTime: 5000,
    refetchInterval: (q) => (q.state.status === 'error' ? 3000 : false),
  });
  useEffect(() => {
    if (text !== undefined && found.data !== undefined) done(found.data[0]);
  });
  return text === undefined ? null : found.error;
}
