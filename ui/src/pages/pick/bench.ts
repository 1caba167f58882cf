import { t } from '@lingui/core/macro';
import { showKg, showNum } from '../../base/format';
import {
  boxesOf,
  grams,
  inBoxes,
  leftOf,
  rowsOf,
  type Box,
  type Job,
  type Kind,
  type Proposal,
  type Row,
} from '../../parts/boxes';
import { bears, lotOf } from '../../base/gs1';
import { unitOf } from './scan';

/** Where somebody is who packs by scanning. */
export interface BenchAt {
  boxes: Box[];
  /** The package into which things go. */
  now: number;
  /** The row that was scanned last, whose number can be typed. */
  row?: string;
}

/** What came of a scan. */
export interface BenchStep {
  at: BenchAt;
  heard: { kind: 'right' | 'wrong'; text: string };
  /** All of it is in packages, and that was said to be all. */
  done?: boolean;
}

const same = (a: string | undefined, b: string) => a !== undefined && a !== '' && a.toLowerCase() === b.toLowerCase();

export const leftInAll = (job: Job, boxes: Box[]) => rowsOf(job).reduce((n, l) => n + leftOf(boxes, l), 0);

export const isEmpty = (b: Box) => Object.values(b.qty).every((n) => n === 0);

/** Packages of the kinds that are proposed, all of them empty: what goes into them is scanned. */
export const begin = (p: Proposal): BenchAt => ({
  boxes: (p.packages.length > 0 ? p.packages : [{ of: p.kinds[0]?.code ?? '' }]).map((x) => ({ of: x.of, kg: '', qty: {} })),
  now: 0,
});

/** How many of a row are proposed for a package, if it still is of the kind that was proposed. */
export const planned = (job: Job, p: Proposal, boxes: Box[], box: number, row: string): number => {
  const x = boxesOf(job, p)[box];
  return x && p.packages[box]?.of === boxes[box]?.of ? (x.qty[row] ?? 0) : 0;
};

const setBox = (at: BenchAt, i: number, patch: Partial<Box>): BenchAt => ({
  ...at,
  boxes: at.boxes.map((b, j) => (j === i ? { ...b, ...patch } : b)),
});

const nameOf = (kinds: Kind[], of: string) => kinds.find((k) => k.code === of)?.name ?? t`by itself`;

/**
 * Takes in what was scanned or typed: an item, of which one goes into the package; a number, so many of the item that was scanned last;
 * the code of a kind of carton or pallet, which begins the next package; a weight such as 12.5 kg. Enter alone takes as many of the last
 * item as are proposed for the package or are left, and when nothing is left, packs.
 */
export function packScan(job: Job, p: Proposal, at: BenchAt, text: string): BenchStep {
  const code = text.trim();
  const box = at.boxes[at.now];
  const wrong = (said: string): BenchStep => ({ at, heard: { kind: 'wrong', text: said } });
  const right = (next: BenchAt, said: string): BenchStep => ({ at: next, heard: { kind: 'right', text: said } });
  if (!box) return wrong(t`There is no package. Scan a carton or a pallet.`);
  const n = at.now + 1;
  const put = (l: Row, qty: number): BenchStep => {
    const next = setBox({ ...at, row: l.key }, at.now, { qty: { ...box.qty, [l.key]: qty } });
    const unit = unitOf(l.unit, qty);
    const said = t`${showNum(qty)} ${unit} of ${l.sku} in package ${n}.`;
    const left = leftInAll(job, next.boxes);
    if (left === 0) return right(next, t`${said} All of it is in packages: press Enter to pack.`);
    // As soon as a package is as proposed, the next one is there.
    const full = Object.entries(boxesOf(job, p)[at.now]?.qty ?? {}).every(([key, n]) => (next.boxes[at.now]?.qty[key] ?? 0) >= n);
    const after = next.boxes.findIndex((b, i) => i > at.now && isEmpty(b));
    if (full && box.of === p.packages[at.now]?.of && after > 0) {
      return right(
        { ...next, now: after, row: undefined },
        t`${said} Now package ${after + 1}: ${nameOf(p.kinds, next.boxes[after]?.of ?? '')}.`,
      );
    }
    return right(next, said);
  };
  const rows = rowsOf(job);
  const last = rows.find((l) => l.key === at.row);
  if (code === '') {
    if (leftInAll(job, at.boxes) === 0) return { at, heard: { kind: 'right', text: t`Packing…` }, done: true };
    if (!last || leftOf(at.boxes, last) === 0)
      return wrong(t`In no package: ${showNum(leftInAll(job, at.boxes))}. Scan an item.`);
    const has = box.qty[last.key] ?? 0;
    const plan = planned(job, p, at.boxes, at.now, last.key);
    return put(last, plan > has ? Math.min(plan, has + leftOf(at.boxes, last)) : has + leftOf(at.boxes, last));
  }
  const gs1 = lotOf(code);
  const ofItem = rows.filter((l) => bears(l, code));
  const ofLot = (gs1?.lot ? ofItem : rows).filter((l) => same(l.lot, gs1?.lot || code));
  const item = ofLot.length > 0 ? ofLot : ofItem;
  if (item.length > 0) {
    const open = item.find((l) => leftOf(at.boxes, l) > 0);
    if (!open)
      return wrong(t`All ${showNum(item.reduce((sum, l) => sum + l.picked, 0))} of ${code} are in packages. Count again.`);
    return put(open, (box.qty[open.key] ?? 0) + 1);
  }
  const kind = p.kinds.find((k) => same(k.code, code));
  if (kind) {
    if (isEmpty(box)) return right({ ...setBox(at, at.now, { of: kind.code }), row: undefined }, t`Package ${n}: ${kind.name}.`);
    const empty = at.boxes.findIndex(isEmpty);
    const boxes =
      empty < 0
        ? [...at.boxes, { of: kind.code, kg: '', qty: {} }]
        : at.boxes.map((b, i) => (i === empty ? { ...b, of: kind.code } : b));
    const now = empty < 0 ? boxes.length - 1 : empty;
    return right({ boxes, now, row: undefined }, t`Package ${now + 1}: ${kind.name}.`);
  }
  const kilos = /^([\d.,]+)\s*kg$/i.exec(code)?.[1];
  if (kilos !== undefined) {
    const g = grams(kilos);
    if (g === undefined) return wrong(t`${code} is no weight. Type it such as 12.5 kg.`);
    return right(setBox(at, at.now, { kg: kilos }), t`Package ${n} weighs ${showKg(g)}.`);
  }
  if (/^\d{1,7}$/.test(code)) {
    if (!last) return wrong(t`Scan the item first, then type how many.`);
    const most = leftOf(at.boxes, last) + (box.qty[last.key] ?? 0);
    const qty = Number(code);
    if (qty > most) return wrong(t`${showNum(most)} of ${last.sku} can be in package ${n}, not ${showNum(qty)}.`);
    return put(last, qty);
  }
  return wrong(t`${code} is not of ${job.order}. Lay it aside.`);
}

/** What was begun, with what is still as it was: a line that is gone, or of which fewer are picked, is taken out. */
export function stillTrue(job: Job, p: Proposal, kept: BenchAt | undefined): BenchAt {
  if (!kept || kept.boxes.length === 0) return begin(p);
  const known = (of: string) => of === '' || p.kinds.some((k) => k.code === of);
  if (kept.boxes.some((b) => !known(b.of))) return begin(p);
  const rows = rowsOf(job);
  if (rows.some((l) => inBoxes(kept.boxes, l) > l.picked)) return begin(p);
  const keys = new Set(rows.map((l) => l.key));
  if (kept.boxes.some((b) => Object.entries(b.qty).some(([key, n]) => n > 0 && !keys.has(key)))) return begin(p);
  return { ...kept, now: Math.min(kept.now, kept.boxes.length - 1) };
}
