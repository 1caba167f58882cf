import { useMemo, useState } from 'react';

/** A row that was chosen: as it was seen then. Of a row that has never been on the screen only its version is known. */
export interface Chosen<T> {
  seen: number;
  row?: T;
}

interface State<T> {
  ids: ReadonlyMap<string, Chosen<T>>;
  /** What all that match come to, if all were chosen; and those that were taken out since. */
  sums?: Record<string, number>;
  out: readonly T[];
}

/** Rows that were chosen, also those that are not on the screen. They stay chosen while filters change, and know how they were seen. */
export function useChoice<T>(idOf: (row: T) => string, versionOf: (row: T) => number) {
  const [state, setState] = useState<State<T>>({ ids: new Map(), out: [] });
  return useMemo(() => {
    const toggle = (row: T) =>
      setState((was) => {
        const ids = new Map(was.ids);
        const id = idOf(row);
        const sums = was.sums;
        if (ids.delete(id)) return ids.size ? { ids, sums, out: sums ? [...was.out, row] : [] } : { ids, out: [] };
        ids.set(id, { seen: versionOf(row), row });
        return { ids, sums, out: was.out.filter((r) => idOf(r) !== id) };
      });
    return {
      ids: state.ids,
      size: state.ids.size,
      has: (id: string) => state.ids.has(id),
      toggle,
      clear: () => setState({ ids: new Map(), out: [] }),
      /** Chooses all of these, which come to so much. */
      setAll: (ids: ReadonlyMap<string, Chosen<T>>, sums: Record<string, number>) => setState({ ids, sums, out: [] }),
      /** Takes the rows as they are now. */
      take: (rows: T[]) =>
        setState((was) => {
          const ids = new Map(was.ids);
          for (const row of rows) if (ids.has(idOf(row))) ids.set(idOf(row), { seen: versionOf(row), row });
          return { ...was, ids };
        }),
      /** What the chosen rows come to. */
      sum: (name: string, of: (row: T) => number) => {
        if (state.sums) return (state.sums[name] ?? 0) - state.out.reduce((n, r) => n + of(r), 0);
        let n = 0;
        for (const c of state.ids.values()) if (c.row !== undefined) n += of(c.row);
        return n;
      },
    };
  }, [state, idOf, versionOf]);
}

export type Choice<T> = ReturnType<typeof useChoice<T>>;
