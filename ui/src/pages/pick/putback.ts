import { t } from '@lingui/core/macro';
import type { Schemas } from '../../api/call';
import { showNum } from '../../base/format';
import { bears, lotOf } from '../../base/gs1';

type Task = Schemas['PutBackView'];

/** Where somebody is who puts units back: what they have in hand, and what was scanned of it. */
export interface PutBackAt {
  task: number;
  qty: number;
  item?: string;
  /** The lot that was read off the units, of an item that is kept by lots. */
  lot?: string;
}

/** What came of a scan. */
export interface PutBackStep {
  at?: PutBackAt;
  heard: { kind: 'right' | 'wrong'; text: string };
  /** So many were put into that bin. */
  done?: { task: Task; qty: number; bin: string; item?: string; lot?: string };
}

const same = (a: string | undefined, b: string) => a !== undefined && a !== '' && a.toLowerCase() === b.toLowerCase();

/**
 * Takes in what was scanned or typed: at first what is in hand (the item, the package or the order), then its lot if that has to be noted,
 * then a number if it is fewer than all, then the bin into which it was put.
 */
export function putBack(tasks: Task[], at: PutBackAt | undefined, text: string): PutBackStep {
  const code = text.trim();
  const now = tasks.find((x) => x.id === at?.task);
  const gs1 = lotOf(code);
  const isItem = (x: Task) => bears(x, code);
  const then = (x: Task, lot?: string) => {
    if (x.by_lots && !lot) return t`Now its lot.`;
    return x.bin ? t`Now bin ${x.bin}.` : t`Now any bin.`;
  };
  const begin = (x: Task, item?: string): PutBackStep => {
    const lot = gs1?.lot ? gs1.lot.toUpperCase() : x.lot;
    return {
      at: { task: x.id, qty: x.qty, item, lot },
      heard: { kind: 'right', text: t`${showNum(x.qty)} of ${x.sku}. ${then(x, lot)}` },
    };
  };
  const wrong = (said: string): PutBackStep => ({ at, heard: { kind: 'wrong', text: said } });
  if (!now || !at) {
    const item = tasks.find(isItem);
    if (item) return begin(item, gs1 ? item.sku : code);
    const other = tasks.find((x) => same(x.package, code) || same(x.order, code) || same(x.list, code) || same(x.bin, code));
    if (other) return begin(other);
    return wrong(code ? t`${code} is not to be put back.` : t`Scan an item.`);
  }
  if (code === '') return wrong(now.bin ? t`Scan bin ${now.bin}.` : t`Scan the bin into which you put it.`);
  if (isItem(now)) {
    const lot = gs1?.lot ? gs1.lot.toUpperCase() : at.lot;
    return {
      at: { ...at, item: gs1 ? now.sku : code, lot },
      heard: { kind: 'right', text: t`${now.sku}, right item. ${then(now, lot)}` },
    };
  }
  const otherItem = tasks.find(isItem);
  if (otherItem) return wrong(t`${code} is another item. You have ${now.sku} in hand: scan its bin first.`);
  if (now.by_lots && !at.lot) {
    const lot = (gs1?.lot || code).toUpperCase();
    return { at: { ...at, lot }, heard: { kind: 'right', text: t`Lot ${lot}. ${then(now, lot)}` } };
  }
  if (/^\d{1,7}$/.test(code) && !same(now.bin, code)) {
    const qty = Number(code);
    if (qty < 1 || qty > now.qty) return wrong(t`${showNum(now.qty)} are to be put back, not ${code}.`);
    return { at: { ...at, qty }, heard: { kind: 'right', text: t`${showNum(qty)} of ${now.sku}. Now the bin.` } };
  }
  if (same(now.place, code)) return wrong(t`${now.place} is where it lies now. Scan the bin into which you put it.`);
  const bin = code.toUpperCase();
  const rest = now.qty - at.qty;
  return {
    at: rest > 0 ? { task: now.id, qty: rest, item: at.item, lot: now.lot } : undefined,
    heard: {
      kind: 'right',
      text:
        rest > 0
          ? t`${showNum(at.qty)} into ${bin}; ${showNum(rest)} are left.`
          : t`${showNum(at.qty)} of ${now.sku} into ${bin}.`,
    },
    done: { task: now, qty: at.qty, bin, item: at.item, lot: at.lot },
  };
}

/** The tasks as they are once what waits to be sent has been recorded. */
export function putBackAfter(tasks: Task[], sent: { task: number; qty: number }[]): Task[] {
  return tasks.flatMap((x) => {
    const qty = x.qty - sent.reduce((n, s) => (s.task === x.id ? n + s.qty : n), 0);
    return qty > 0 ? [{ ...x, qty }] : [];
  });
}
