import { useMemo, useState } from 'react';
import type { Schemas } from '../../api/call';

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

/** What that comes to: of all that could go from what the server says of it, else from the lines. */
export function sumOf(of: Releasing, lines: Line[], head: Head | undefined) {
  const { qty, all } = of;
  const some = of.otherwise(lines);
  const units = some.reduce((n, l) => n + qty(l), 0);
  const weight = some.reduce((g, l) => g + (l.weight_g / Math.max(1, l.at.allocated)) * qty(l), 0);
  if (!all) {
    return {
      lines: some.length,
      left: 0,
      more: false,
      units,
      weight,
      orders: new Set(some.map((l) => l.order)).size,
      lists: new Set(some.map((l) => l.warehouse)).size,
    };
  }
  const left = some.filter((l) => qty(l) === 0).length;
  return {
    lines: (head?.offered ?? 0) - left,
    left,
    more: head?.more ?? false,
    units: (head?.units ?? 0) - some.reduce((n, l) => n + l.at.allocated, 0) + units,
    weight: (head?.weight_g ?? 0) - some.reduce((g, l) => g + l.weight_g, 0) + weight,
    orders: 0,
    lists: 0,
  };
}
