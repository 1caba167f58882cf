import { t } from '@lingui/core/macro';
import { useEffect, useState } from 'react';
import { useKey } from '../base/keys/useKey';

/**
 * The row in focus of a list: arrow keys or J and K move it, and it stays with its
 * row when the list is fetched again. It begins with the row of that id, if there is one.
 */
export function useRows<T>(rows: T[], idOf: (row: T) => string, first = '') {
  const [focus, setFocus] = useState(first);
  const found = rows.findIndex((r) => idOf(r) === focus);
  const index = found >= 0 ? found : rows.length ? 0 : -1;
  const row = index >= 0 ? rows[index] : undefined;
  const id = row === undefined ? '' : idOf(row);
  const move = (by: number) => {
    const next = rows[Math.max(0, Math.min(rows.length - 1, index + by))];
    if (next !== undefined) setFocus(idOf(next));
  };
  const step = (by: number) => {
    // A button that was pressed before keeps Enter for itself; whoever moves in the list means the row.
    const main = document.getElementById('page');
    if (!main?.contains(document.activeElement) || document.activeElement?.closest('button, a'))
      main?.focus({ preventScroll: true });
    move(by);
  };
  useKey('ArrowDown, j', t`Next row`, () => step(1), inList);
  useKey('ArrowUp, k', t`Previous row`, () => step(-1), inList);
  useEffect(() => {
    if (focus) document.querySelector('tr[data-focus="true"]')?.scrollIntoView({ block: 'nearest' });
  }, [focus]);
  return { row, id, index, setFocus, move };
}

const inList = { repeat: true, group: t`In the list` };
