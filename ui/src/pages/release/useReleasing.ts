import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';

export type Line = Schemas['ReleaseLine'];
export type Head = Omit<Schemas['ReleasePage'], 'lines' | 'next'>;

/**
 * What of the lines is to be released: those that were chosen, or all that could go, listed or not, but for what was set otherwise. A line
 * that has changed keeps at most what is allocated now; all that could go of one list is not all of another.
 */
export function useReleasing(list: string) {
  const [asked, setAsked] = useState<Record<number, number>>({});
  const [allOf, setAllOf] = useState<string>();
  const all = allOf === list;
  return useMemo(() => {
    const qty = (l: Line) => Math.min(asked[l.id] ?? (all ? l.at.allocated : 0), l.at.allocated);
    const set = (l: Line, n: number) => setAsked((was) => ({ ...was, [l.id]: n }));
    return {
      all,
      qty,
      set,
      toggle: (l: Line) => set(l, qty(l) > 0 ? 0 : l.at.allocated),
      everything: () => {
        setAsked({});
        setAllOf(list);
      },
      none: () => {
        setAsked({});
        setAllOf(undefined);
      },
      /** Lines of those that have come that were chosen, or that are set apart from all. */
      otherwise: (lines: Line[]) => lines.filter((l) => l.id in asked && (all ? qty(l) < l.at.allocated : qty(l) > 0)),
    };
  }, [asked, all, list]);
}

export type Releasing = ReturnType<typeof useReleasing>;

/** What that comes to, as the server says it; undefined while nothing is chosen. */
export function useEffectOf(of: Releasing, lines: Line[], due: { q?: string; until?: string; warehouse?: string }) {
  const some = of.otherwise(lines);
  const body = {
    ...due,
    all: of.all || undefined,
    lines: some.map((l) => ({ line: l.id, qty: of.qty(l) })),
  };
  const chosen = of.all || some.length > 0;
  const effect = useQuery({
    queryKey: ['release try', body],
    queryFn: ({ signal }) => ask(client.POST('/api/rehearse-release', { body, signal })),
    placeholderData: keepPreviousData,
    enabled: chosen,
  });
  return chosen ? { sum: effect.data } : undefined;
}
