import { describe, expect, it } from 'vitest';
import { receive, receivedAfter, type Inbound, type ReceiveAt } from './receive';

const inbound = (id: number, ref: string, sku: string, left: number, bin = '', barcode = '') =>
  ({ id, ref, sku, item: sku, unit: 'tub', qty: left, received: 0, left, bin, barcode }) as unknown as Inbound;
const all = [
  inbound(1, 'PO-1', 'GL-1', 12, 'C-01', '5000000000015'),
  inbound(2, 'PO-1', 'TL-2', 3),
  inbound(3, 'PO-2', 'KF-3', 40, 'K-09'),
];

function scans(codes: string[], from?: ReceiveAt) {
  let at = from;
  let step = receive(all, at, codes[0] ?? '');
  for (const c of codes) {
    step = receive(all, at, c);
    at = step.at;
  }
  return step;
}

describe('receiving by scanning', () => {
  it('takes a reference, an item, all of it, and the bin that is proposed', () => {
    expect(scans(['po-2']).heard.text).toBe('PO-2. Now the item: KF-3.');
    const step = scans(['PO-2', 'KF-3', '', '']);
    expect(step.done).toEqual({ of: all[2], qty: 40, bin: 'K-09' });
    expect(step.at).toBeUndefined();
  });
  it('begins with the item, a number, and another bin', () => {
    const step = scans(['5000000000015', '5', 'c-77']);
    expect(step.done).toMatchObject({ qty: 5, bin: 'C-77' });
  });
  it('asks for the item where a reference brings several, and goes to another of the same delivery', () => {
    expect(scans(['PO-1']).heard.text).toBe('PO-1 brings 2 items. Scan the first.');
    expect(receive(all, { inbound: 1 }, 'TL-2').at).toEqual({ inbound: 2, item: 'TL-2' });
  });
  it('asks why more came before it takes them', () => {
    const step = scans(['TL-2', '5']);
    expect(step.asks).toBe(true);
    expect(step.heard.text).toBe('3 were expected, not 5. Say why.');
    expect(receive(all, step.at, 'T-01').heard.text).toBe('Say first why more came.');
    expect(receive(all, { ...step.at!, why: 'they sent more' }, 't-01').done).toMatchObject({ qty: 5, bin: 'T-01' });
  });
  it('says what is wrong and stays where it is', () => {
    for (const [at, code, said] of [
      [undefined, '', 'Scan a delivery note or an item.'],
      [undefined, 'PO-9', 'PO-9 is not expected.'],
      [{ inbound: 1 }, 'KF-3', 'KF-3 is wrong: PO-1 brings GL-1. Lay it aside.'],
      [{ inbound: 1 }, '', 'Scan the item: GL-1.'],
      [{ inbound: 1, item: 'GL-1' }, '0', '0 is not a number. Type how many came.'],
      [{ inbound: 1, item: 'GL-1', qty: 2 }, 'GL-1', 'That is the item. Scan the bin into which you put it.'],
      [{ inbound: 2, item: 'TL-2', qty: 2 }, '', 'Scan the bin into which you put it.'],
    ] as const) {
      const step = receive(all, at, code);
      expect(step.heard).toEqual({ kind: 'wrong', text: said });
      expect(step.at).toBe(at);
    }
  });
  it('counts what waits to be sent as taken in', () => {
    const left = receivedAfter(all, [
      { inbound: 1, qty: 5 },
      { inbound: 2, qty: 1, last: true },
      { inbound: 1, qty: 4 },
    ]);
    expect(left.map((n) => [n.id, n.left, n.received])).toEqual([
      [1, 3, 9],
      [3, 40, 0],
    ]);
  });
});
