import { useQuery } from '@tanstack/react-query';
import { ask, client } from '../api/call';

/** How far a long command is, asked a few times a second while it runs. */
export function useProgress(key: string | undefined) {
  const progress = useQuery({
    queryKey: ['progress', key],
    queryFn: () => ask(client.GET('/api/progress/{key}', { params: { path: { key: key ?? '' } } })),
    enabled: key !== undefined,
    refetchInterval: 250,
    gcTime: 0,
  });
  return progress.data?.step ? progress.data : undefined;
}
