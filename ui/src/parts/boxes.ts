import type { AskOf, Schemas } from '../api/call';
import { readDecimal } from '../base/decimal';

export type Job = Schemas['PackingJob'];
export type Kind = Schemas['PackageKind'];
export type Proposal = Schemas['PackProposal'];
export type Ware = 'cartons' | 'pallets' | undefined;

/** A package while it is packed. */
export interface Box {
  /** Code of its kind of carton or pallet; empty for a thing that goes by itself. */
  of: string;
  /** Its weight as typed or as the scale said; empty: as it weighs by its items. */
  kg: string;
  /** How many of each line lie in it. */
  qty: Record<number, number>;
}

/** The packages that are proposed. */
export const boxesOf = (p: Proposal): Box[] =>
  p.packages.length === 0
    ? [{ of: p.kinds[0]?.code ?? '', kg: '', qty: {} }]
    : p.packages.map((x) => ({ of: x.of, kg: '', qty: Object.fromEntries(x.contents.map((c) => [c.line, c.qty])) }));

export const contentsOf = (job: Job, b: Box) =>
  job.lines.flatMap((l) => ((b.qty[l.id] ?? 0) > 0 ? [{ line: l.id, qty: b.qty[l.id] ?? 0 }] : []));

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
