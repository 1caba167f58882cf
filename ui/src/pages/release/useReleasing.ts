import { useState } from 'react';
import type { Schemas } from '../../api/call';

type Line = Schemas['ReleaseLine'];

/**
 * What of the lines is to be released: those that were chosen, or all that could go, listed or not, but for what was set otherwise. A line
 * that has changed keeps at most what is allocated now; all that could go of one list is not all of another.
 */
export function useReleasing(lines: Line[], head: Schemas['ReleasePage'] | undefined, list: string) {
  const [asked, setAsked] = useState<Record<number, number>>({});
  const [allOf, setAllOf] = useState<string>();
  const all = allOf === list;
  const qty = (l: Line) => Math.min(asked[l.id] ?? (all ? l.at.allocated : 0), l.at.allocated);
  const chosen = lines.filter((l) => qty(l) > 0);
  const apart = lines.filter((l) => qty(l) < l.at.allocated); // from all of it
  const units = (of: Line[]) => of.reduce((n, l) => n + qty(l), 0);
  const weight = (of: Line[]) => of.reduce((g, l) => g + (l.weight_g / Math.max(1, l.at.allocated)) * qty(l), 0);
  const whole = (of: Line[], what: (l: Line) => number) => of.reduce((n, l) => n + what(l), 0);
  const left = apart.filter((l) => qty(l) === 0).length;
  const sum = all
    ? {
        lines: (head?.offered ?? 0) - left,
        left,
        more: head?.more ?? false,
        units: (head?.units ?? 0) - whole(apart, (l) => l.at.allocated) + units(apart),
        weight: (head?.weight_g ?? 0) - whole(apart, (l) => l.weight_g) + weight(apart),
        orders: 0,
        lists: 0,
      }
    : {
        lines: chosen.length,
        left: 0,
        more: false,
        units: units(chosen),
        weight: weight(chosen),
        orders: new Set(chosen.map((l) => l.order)).size,
        lists: new Set(chosen.map((l) => l.warehouse)).size,
      };
  return {
    all,
    sum,
    qty,
    set: (l: Line, n: number) => setAsked((was) => ({ ...was, [l.id]: n })),
    everything: () => {
      setAsked({});
      setAllOf(list);
    },
    none: () => {
      setAsked({});
      setAllOf(undefined);
    },
    /** What has to be said of lines: which were chosen, or which are set apart from all. */
    otherwise: () => (all ? apart : chosen).map((l) => ({ line: l.id, qty: qty(l), seen: l.version })),
  };
}
