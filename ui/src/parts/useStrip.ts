import { useQuery } from '@tanstack/react-query';
import { ask, client } from '../api/call';

/** The journey bar of the whole book. */
export function useStrip() {
  return useQuery({ queryKey: ['strip'], queryFn: () => ask(client.GET('/api/strip')) });
}
