import { useEffect, useState } from 'react';
import { useKey } from '../app/keys';

/**
 * The row in focus of a list: arrow keys or J and K move it, and it stays with its
 * row when the list is fetched again.
 */
export function useRows<T>(rows: T[], idOf: (row: T) => string) {
  const [focus, setFocus] = useState('');
  const found = rows.findIndex((r) => idOf(r) === focus);
  const index = found >= 0 ? found : rows.length ? 0 : -1;
  const row = index >= 0 ? rows[index] : undefined;
  const id = row === undefined ? '' : idOf(row);
  const move = (by: number) => {
    const next = rows[Math.max(0, Math.min(rows.length - 1, index + by))];
    if (next !== undefined) setFocus(idOf(next));
  };
  useKey('ArrowDown, j', 'Next row', () => move(1));
  useKey('ArrowUp, k', 'Row before', () => move(-1));
  useEffect(() => {
    if (focus) document.querySelector('tr[data-focus="true"]')?.scrollIntoView({ block: 'nearest' });
  }, [focus]);
  return { row, id, index, setFocus, move };
}

/** Rows that were chosen, by id. */
export function useChosen() {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  return {
    chosen,
    has: (id: string) => chosen.has(id),
    toggle: (id: string) =>
      setChosen((was) => {
        const next = new Set(was);
        if (!next.delete(id)) next.add(id);
        return next;
      }),
    set: (ids: Iterable<string>) => setChosen(new Set(ids)),
    clear: () => setChosen(new Set()),
  };
}
