import type { AskOf, Schemas } from '../api/call';
import { readDecimal } from '../base/decimal';

export type Job = Schemas['PackingJob'];
export type Kind = Schemas['PackageKind'];
export type Proposal = Schemas['PackProposal'];
export type Ware = 'cartons' | 'pallets' | undefined;

/** Units of a line that are packed as one: all of it, or what is of one lot if there are several. */
export interface Row extends Omit<Schemas['PackingLine'], 'lots'> {
  key: string;
  /** Of which lot they are; empty if none is noted, absent if all of the line are alike. */
  lot?: string;
}

/** What is to be packed of an order, the lots of a line one after the other. */
export const rowsOf = (job: Job): Row[] =>
  job.lines.flatMap((l) => {
    const noted = l.lots.reduce((n, x) => n + x.qty, 0);
    if (l.lots.length === 0 || (l.lots.length === 1 && noted >= l.picked)) return [{ ...l, key: String(l.id) }];
    const rows: Row[] = l.lots.map((x) => ({ ...l, key: `${l.id} ${x.lot}`, lot: x.lot, picked: Math.min(x.qty, l.picked) }));
    return noted < l.picked ? [...rows, { ...l, key: `${l.id} `, lot: '', picked: l.picked - noted }] : rows;
  });

/** A package while it is packed. */
export interface Box {
  /** Code of its kind of carton or pallet; empty for a thing that goes by itself. */
  of: string;
  /** Its weight as typed or as the scale said; empty: as it weighs by its items. */
  kg: string;
  /** How many of each row lie in it. */
  qty: Record<string, number>;
}

/** How many of a row are in packages. */
export const inBoxes = (boxes: Box[], row: Row) => boxes.reduce((n, b) => n + (b.qty[row.key] ?? 0), 0);

/** How many of a row are in no package yet. */
export const leftOf = (boxes: Box[], row: Row) => Math.max(0, row.picked - inBoxes(boxes, row));

/** The packages that are proposed. Of a line of several lots, those that were noted first go first. */
export function boxesOf(job: Job, p: Proposal): Box[] {
  if (p.packages.length === 0) return [{ of: p.kinds[0]?.code ?? '', kg: '', qty: {} }];
  const boxes: Box[] = p.packages.map((x) => ({ of: x.of, kg: '', qty: {} }));
  p.packages.forEach((x, i) => {
    for (const c of x.contents) {
      let qty = c.qty;
      for (const row of rowsOf(job).filter((r) => r.id === c.line)) {
        const n = Math.min(qty, leftOf(boxes, row));
        const box = boxes[i];
        if (n > 0 && box) box.qty[row.key] = (box.qty[row.key] ?? 0) + n;
        qty -= n;
      }
    }
  });
  return boxes;
}

/** What lies in a package, by line. */
export function contentsOf(job: Job, b: Box) {
  const rows = rowsOf(job).filter((r) => (b.qty[r.key] ?? 0) > 0);
  return [...new Set(rows.map((r) => r.id))].map((line) => {
    const of = rows.filter((r) => r.id === line);
    const lots = of.flatMap((r) => (r.lot ? [{ lot: r.lot, qty: b.qty[r.key] ?? 0 }] : []));
    return { line, qty: of.reduce((n, r) => n + (b.qty[r.key] ?? 0), 0), ...(lots.length > 0 ? { lots } : {}) };
  });
}

/** Grams from kilograms as typed, or undefined if it is not a weight. */
export function grams(text: string): number | undefined {
  const g = readDecimal(text, 3);
  return g !== undefined && g > 0 ? g : undefined;
}

/** The command that packs them; packages without anything in them are left out. */
export const packing = (job: Job, kinds: Kind[], boxes: Box[], into?: string): AskOf<'/api/pack'> => ({
  order: job.order,
  warehouse: job.warehouse,
  shipment: into,
  packages: boxes
    .filter((b) => contentsOf(job, b).length > 0)
    .map((b) => ({
      kind: kinds.find((k) => k.code === b.of)?.pallet ? ('pallet' as const) : ('carton' as const),
      of: b.of,
      weight_g: grams(b.kg),
      contents: contentsOf(job, b),
    })),
  labels: true,
});
