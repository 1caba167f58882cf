import { describe, expect, it } from 'vitest';
import type { Job, Proposal } from '../../parts/boxes';
import { begin, leftInAll, packScan, stillTrue, type BenchAt } from './bench';

const line = (id: number, sku: string, picked: number, barcode = '') => ({
  id,
  line: id,
  sku,
  item: sku,
  unit: 'tub',
  picked,
  weight_g: 1000,
  barcode,
  lots: [] as { lot: string; qty: number }[],
});
const job = { order: 'SO-1', warehouse: 'HL', lines: [line(1, 'GL-1', 12, '5000000000015'), line(2, 'TL-2', 3)] } as Job;
const kind = (code: string, name: string) => ({
  code,
  name,
  pallet: false,
  length_mm: 1,
  width_mm: 1,
  height_mm: 1,
  tare_g: 1,
  most_g: 10,
});
const proposed = {
  kinds: [kind('BOX-S', 'Small carton'), kind('BOX-L', 'Large carton')],
  packages: [
    { of: 'BOX-L', contents: [{ line: 1, qty: 10 }] },
    {
      of: 'BOX-S',
      contents: [
        { line: 1, qty: 2 },
        { line: 2, qty: 3 },
      ],
    },
  ],
  left: [],
  into: [],
  unsized: 0,
  fewest: true,
} as Proposal;

/** Scans one after another; what was heard of the last. */
function scans(codes: string[], from: BenchAt = begin(proposed)) {
  let at = from;
  let step;
  for (const c of codes) {
    step = packScan(job, proposed, at, c);
    at = step.at;
  }
  return { at, step };
}

describe('packing by scanning', () => {
  it('counts items into the package, takes a typed number, and goes on to the next as proposed', () => {
    const one = scans(['5000000000015']).at;
    expect(one.boxes[0]?.qty).toEqual({ 1: 1 });
    const { at, step } = scans(['gl-1', '10'], one);
    expect(at.boxes[0]?.qty).toEqual({ 1: 10 });
    expect(at.now).toBe(1);
    expect(step?.heard.text).toContain('Now package 2: Small carton');
  });
  it('takes all that is proposed, or left, by Enter, and packs when nothing is left', () => {
    const { at, step } = scans(['GL-1', '', 'GL-1', '', 'TL-2', '']);
    expect(at.boxes.map((b) => b.qty)).toEqual([{ 1: 10 }, { 1: 2, 2: 3 }]);
    expect(leftInAll(job, at.boxes)).toBe(0);
    expect(step?.heard.text).toContain('press Enter to pack');
    expect(packScan(job, proposed, at, '').done).toBe(true);
  });
  it('says what is wrong and changes nothing', () => {
    const { at } = scans(['GL-1', '', 'GL-1', '']);
    for (const [code, said] of [
      ['XX-9', 'XX-9 is not of SO-1. Lay it aside.'],
      ['GL-1', 'All 12 of GL-1 are in packages. Count again.'],
      ['99', '2 of GL-1 can be in package 2, not 99.'],
      ['0.0 kg', '0.0 kg is no weight.'],
      ['', 'In no package: 3. Scan an item.'],
    ] as const) {
      const step = packScan(job, proposed, at, code);
      expect(step.heard.kind).toBe('wrong');
      expect(step.heard.text).toContain(said);
      expect(step.at).toBe(at);
    }
    expect(packScan(job, proposed, begin(proposed), '5').heard.text).toContain('Scan the item first');
  });
  it('begins another package by its code, and weighs', () => {
    const small = scans(['box-s']).at;
    expect(small.boxes[0]?.of).toBe('BOX-S');
    expect(small.now).toBe(0);
    const { at, step } = scans(['TL-2', 'BOX-L', 'GL-1', '12', 'box-s'], small);
    expect(at.boxes.map((b) => b.of)).toEqual(['BOX-S', 'BOX-L', 'BOX-S']);
    expect(at.now).toBe(2);
    expect(step?.heard.text).toBe('Package 3: Small carton.');
    expect(scans(['4.25 kg'], at).at.boxes[2]?.kg).toBe('4.25');
  });
  it('keeps what was begun only while it can still be true', () => {
    const { at } = scans(['GL-1', '8']);
    expect(stillTrue(job, proposed, at)).toEqual(at);
    const fewer = { ...job, lines: [line(1, 'GL-1', 7), line(2, 'TL-2', 3)] } as Job;
    expect(stillTrue(fewer, proposed, at)).toEqual(begin(proposed));
    expect(stillTrue({ ...job, lines: [line(2, 'TL-2', 3)] } as Job, proposed, at)).toEqual(begin(proposed));
    expect(stillTrue(job, { ...proposed, kinds: [] } as unknown as Proposal, at)).toEqual(
      begin({ ...proposed, kinds: [] } as unknown as Proposal),
    );
    expect(stillTrue(job, proposed, undefined)).toEqual(begin(proposed));
  });
});
