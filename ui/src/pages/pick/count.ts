import { t } from '@lingui/core/macro';
import type { Schemas } from '../../api/call';
import { showNum } from '../../base/format';
import { lotOf } from '../../base/gs1';

type Count = Schemas['CountView'];

/** Where somebody is who counts a bin: what was counted of which lots so far. */
export interface CountAt {
  count: number;
  lots: { lot: string; qty: number }[];
  /** The lot that was read and is counted. */
  lot?: string;
}

/** What came of a scan. */
export interface CountStep {
  at?: CountAt;
  heard: { kind: 'right' | 'wrong'; text: string };
  /** So many were counted, of these lots. */
  done?: { of: Count; qty: number; lots: { lot: string; qty: number }[] };
}

/**
 * Takes in what was scanned or typed: at first the bin, then how many lie in it. Of an item that is kept by lots it is a lot and how many
 * of it, one lot after the other; Enter alone says that this was all.
 */
export function count(all: Count[], at: CountAt | undefined, text: string): CountStep {
  const code = text.trim();
  const now = all.find((c) => c.id === at?.count);
  const wrong = (said: string): CountStep => ({ at, heard: { kind: 'wrong', text: said } });
  const right = (next: CountAt, said: string): CountStep => ({ at: next, heard: { kind: 'right', text: said } });
  if (!now || !at) {
    const found = all.find((c) => c.bin.toLowerCase() === code.toLowerCase());
    if (!found) return wrong(t`Bin ${code} is not to be counted.`);
    const first = { count: found.id, lots: [] };
    if (found.by_lots) return right(first, t`${found.bin}, right bin. Count ${found.sku} in it lot by lot: scan the first.`);
    return right(first, t`${found.bin}, right bin. Count all of ${found.sku} in it.`);
  }
  const done = (qty: number, lots: CountAt['lots']): CountStep => ({
    at: undefined,
    heard: { kind: 'right', text: t`${now.bin}: ${showNum(qty)} counted.` },
    done: { of: now, qty, lots },
  });
  const number = /^\d{1,9}$/.test(code);
  if (!now.by_lots) {
    return number ? done(Number(code), []) : wrong(t`${code} is not a number. Type how many lie in the bin.`);
  }
  if (at.lot !== undefined) {
    if (!number) return wrong(t`${code} is not a number. Type how many of lot ${at.lot} lie in the bin.`);
    const lots = [...at.lots.filter((l) => l.lot !== at.lot), { lot: at.lot, qty: Number(code) }];
    const sum = lots.reduce((n, l) => n + l.qty, 0);
    return right(
      { count: now.id, lots },
      t`${showNum(Number(code))} of lot ${at.lot}, ${showNum(sum)} in all. The next lot, or Enter if this was all.`,
    );
  }
  if (code !== '') {
    const lot = (lotOf(code)?.lot || code).toUpperCase();
    return right({ ...at, lot }, t`Lot ${lot}. How many of it lie in the bin?`);
  }
  if (at.lots.length === 0) return wrong(t`Scan or type the first lot. If the bin is empty, type 0 for one that was in it.`);
  return done(
    at.lots.reduce((n, l) => n + l.qty, 0),
    at.lots.filter((l) => l.qty > 0),
  );
}
