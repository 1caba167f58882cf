import { describe, expect, it } from 'vitest';
import { boxesOf, contentsOf, grams, packing, rowsOf, type Job, type Kind, type Proposal } from './boxes';

const job = {
  order: 'SO-1',
  warehouse: 'HL',
  lines: [
    { id: 1, picked: 5, lots: [] as { lot: string; qty: number }[] },
    { id: 2, picked: 2, lots: [] as { lot: string; qty: number }[] },
  ],
} as Job;
const kinds = [{ code: 'BOX-S' }, { code: 'PALLET', pallet: true }] as Kind[];

describe('packages while they are packed', () => {
  it('reads kilograms as grams, and nothing that is no weight', () => {
    expect(['12.5', '0,25', '3'].map(grams)).toEqual([12_500, 250, 3000]);
    expect(['', '0', 'heavy', '1.2345', '-1'].map(grams)).toEqual([undefined, undefined, undefined, undefined, undefined]);
  });
  it('begins with what is proposed, or with one empty package', () => {
    const proposed = { kinds, packages: [{ of: 'BOX-S', contents: [{ line: 1, qty: 5 }] }] } as unknown as Proposal;
    expect(boxesOf(job, proposed)).toEqual([{ of: 'BOX-S', kg: '', qty: { 1: 5 } }]);
    expect(boxesOf(job, { ...proposed, packages: [] })).toEqual([{ of: 'BOX-S', kg: '', qty: {} }]);
  });
  it('packs what is in them, in the order of the lines, and leaves empty ones out', () => {
    const first = { of: 'BOX-S', kg: '', qty: { 2: 1, 1: 3 } };
    const boxes = [first, { of: '', kg: '9', qty: { 1: 0 } }, { of: 'PALLET', kg: '40', qty: { 1: 2 } }];
    const contents = [
      { line: 1, qty: 3 },
      { line: 2, qty: 1 },
    ];
    expect(contentsOf(job, first)).toEqual(contents);
    expect(packing(job, kinds, boxes, 'SH-7')).toEqual({
      order: 'SO-1',
      warehouse: 'HL',
      shipment: 'SH-7',
      labels: true,
      packages: [
        { kind: 'carton', of: 'BOX-S', weight_g: undefined, contents },
        { kind: 'pallet', of: 'PALLET', weight_g: 40_000, contents: [{ line: 1, qty: 2 }] },
      ],
    });
  });
  it('packs a line of several lots lot by lot, those that were noted first first', () => {
    const of = { ...job, lines: [{ id: 1, picked: 7, lots: [{ lot: 'A7', qty: 4 }, { lot: 'B1', qty: 2 }] }] } as Job; // prettier-ignore
    expect(rowsOf(of).map((r) => [r.key, r.lot, r.picked])).toEqual([
      ['1 A7', 'A7', 4],
      ['1 B1', 'B1', 2],
      ['1 ', '', 1],
    ]);
    const proposed = {
      kinds,
      packages: [5, 2].map((qty) => ({ of: 'BOX-S', contents: [{ line: 1, qty }] })),
    } as unknown as Proposal;
    const boxes = boxesOf(of, proposed);
    expect(boxes.map((b) => b.qty)).toEqual([
      { '1 A7': 4, '1 B1': 1 },
      { '1 B1': 1, '1 ': 1 },
    ]);
    expect(boxes.map((b) => contentsOf(of, b))).toEqual([
      [{ line: 1, qty: 5, lots: [{ lot: 'A7', qty: 4 }, { lot: 'B1', qty: 1 }] }], // prettier-ignore
      [{ line: 1, qty: 2, lots: [{ lot: 'B1', qty: 1 }] }],
    ]);
    // All of one lot is packed as what can only be of that lot.
    const alike = { ...job, lines: [{ id: 1, picked: 4, lots: [{ lot: 'A7', qty: 4 }] }] } as Job;
    expect(rowsOf(alike).map((r) => r.key)).toEqual(['1']);
  });
});
