import { t } from '@lingui/core/macro';
import type { Schemas } from '../../api/call';
import { showNum } from '../../base/format';
import { bears, lotOf } from '../../base/gs1';
import { unitOf } from './scan';

export type Inbound = Schemas['InboundView'];

/** Where somebody is who takes in what has come. */
export interface ReceiveAt {
  inbound: number;
  /** What was scanned of the item. */
  item?: string;
  /** Of which lot, if the item is kept by lots, once that was said. */
  lot?: string;
  /** How many came, once that was said. */
  qty?: number;
  /** Why more came than was expected, or fewer and nothing more does. */
  why?: string;
  /** Nothing more comes. */
  last?: boolean;
}

/** What came of a scan. */
export interface ReceiveStep {
  at?: ReceiveAt;
  heard: { kind: 'right' | 'wrong'; text: string };
  /** More came than was expected: why is asked for. */
  asks?: boolean;
  /** So many were put into that bin. */
  done?: { of: Inbound; qty: number; bin: string; lot?: string };
}

const same = (a: string | undefined, b: string) => a !== undefined && a !== '' && a.toLowerCase() === b.toLowerCase();

/** What is left of each, once what waits to be sent has been recorded. */
export function receivedAfter(all: Inbound[], sent: { inbound: number; qty: number; last?: boolean }[]): Inbound[] {
  return all.flatMap((n) => {
    let { left, received } = n;
    for (const s of sent) {
      if (s.inbound !== n.id) continue;
      received += s.qty;
      left = s.last ? 0 : Math.max(0, left - s.qty);
    }
    return left > 0 ? [{ ...n, left, received }] : [];
  });
}

/**
 * Takes in what was scanned or typed: at first what has come (its reference, or the item), then the item, then its lot if that has to be
 * noted, then how many (nothing stands for all that are expected), then the bin into which they were put (nothing stands for the one that
 * is proposed).
 */
export function receive(all: Inbound[], at: ReceiveAt | undefined, text: string): ReceiveStep {
  const code = text.trim();
  const now = all.find((n) => n.id === at?.inbound);
  const gs1 = lotOf(code);
  const isItem = (n: Inbound) => bears(n, code);
  const right = (next: ReceiveAt | undefined, said: string): ReceiveStep => ({ at: next, heard: { kind: 'right', text: said } });
  const wrong = (said: string): ReceiveStep => ({ at, heard: { kind: 'wrong', text: said } });
  const ask = (n: Inbound) => t`How many came? Enter for all ${showNum(n.left)}.`;
  const howMany = (n: Inbound) =>
    n.by_lots && !gs1?.lot ? t`${n.sku}, right item. Now its lot.` : t`${n.sku}, right item. ${ask(n)}`;
  const lot = gs1?.lot ? { lot: gs1.lot.toUpperCase() } : {};
  if (!now || !at) {
    if (code === '') return wrong(t`Scan a delivery note or an item.`);
    const item = all.filter(isItem);
    const [first] = item;
    if (first) return right({ inbound: first.id, item: gs1 ? first.sku : code, ...lot }, `${first.ref}: ${howMany(first)}`);
    const ref = all.filter((n) => same(n.ref, code));
    const [one, ...more] = ref;
    if (!one) return wrong(t`${code} is not expected.`);
    if (more.length > 0) return right(undefined, t`${one.ref} brings ${showNum(ref.length)} items. Scan the first.`);
    return right({ inbound: one.id }, t`${one.ref}. Now the item: ${one.sku}.`);
  }
  if (at.item === undefined) {
    if (isItem(now)) return right({ ...at, item: gs1 ? now.sku : code, ...lot }, howMany(now));
    const other = all.find((n) => n.ref === now.ref && isItem(n));
    if (other) return right({ inbound: other.id, item: gs1 ? other.sku : code, ...lot }, howMany(other));
    return wrong(code === '' ? t`Scan the item: ${now.sku}.` : t`${code} is wrong: ${now.ref} brings ${now.sku}. Lay it aside.`);
  }
  if (now.by_lots && at.lot === undefined) {
    if (code === '') return wrong(t`Scan or type the lot that stands on it.`);
    if (isItem(now) && !gs1?.lot) return wrong(t`That is the item. Scan or type its lot.`);
    const read = (gs1?.lot || code).toUpperCase();
    return right({ ...at, lot: read }, t`Lot ${read}. ${ask(now)}`);
  }
  const bin = (qty: number, next: ReceiveAt) =>
    right(
      { ...next, qty },
      now.bin
        ? t`${showNum(qty)} ${unitOf(now.unit, qty)}. Now the bin: Enter for ${now.bin}.`
        : t`${showNum(qty)} ${unitOf(now.unit, qty)}. Now any bin.`,
    );
  if (at.qty === undefined) {
    if (code === '') return bin(now.left, at);
    if (isItem(now)) return right(at, howMany(now));
    if (!/^\d{1,9}$/.test(code) || Number(code) === 0) return wrong(t`${code} is not a number. Type how many came.`);
    const qty = Number(code);
    if (qty <= now.left || at.why) return bin(qty, at);
    return {
      at: { ...at, qty },
      heard: { kind: 'wrong', text: t`${showNum(now.left)} were expected, not ${showNum(qty)}. Say why.` },
      asks: true,
    };
  }
  if (at.qty > now.left && !at.why) return { ...wrong(t`Say first why more came.`), asks: true };
  if (isItem(now)) return wrong(t`That is the item. Scan the bin into which you put it.`);
  const into = code === '' ? now.bin : code.toUpperCase();
  if (into === '') return wrong(t`Scan the bin into which you put it.`);
  return {
    at: undefined,
    heard: { kind: 'right', text: t`${showNum(at.qty)} ${unitOf(now.unit, at.qty)} of ${now.sku} into ${into}.` },
    done: { of: now, qty: at.qty, bin: into, lot: at.lot },
  };
}
