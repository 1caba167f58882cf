import { describe, expect, it } from 'vitest';
import { boxesOf, contentsOf, grams, packing, type Job, type Kind, type Proposal } from './boxes';

const job = {
  order: 'SO-1',
  warehouse: 'HL',
  lines: [
    { id: 1, picked: 5 },
    { id: 2, picked: 2 },
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
    expect(boxesOf(proposed)).toEqual([{ of: 'BOX-S', kg: '', qty: { 1: 5 } }]);
    expect(boxesOf({ ...proposed, packages: [] })).toEqual([{ of: 'BOX-S', kg: '', qty: {} }]);
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
});
