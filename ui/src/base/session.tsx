import { useQuery } from '@tanstack/react-query';
import { createContext, useContext } from 'react';
import { ask, client, type Schemas } from '../api/call';
import { setSums, setZone } from './format';

export type Me = Schemas['Me'];

export function useMe() {
  return useQuery<Me | null, Error>({
    queryKey: ['me'],
    queryFn: async () => {
      const me = await ask(client.GET('/api/me'));
      setZone(me.zone);
      setSums(me.sums);
      return me.signed_in ? me : null;
    },
    staleTime: 60_000,
    retry: 1,
  });
}

const Context = createContext<Me>({ signed_in: false, name: '', role: '', may: [], demo: false });
export const Signed = Context.Provider;

/** Who is signed in, and whether they may do something. */
export function useSigned() {
  const me = useContext(Context);
  return { me, may: (verb: string) => me.may.includes(verb) };
}
