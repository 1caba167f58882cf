import { expect, test } from 'vitest';
import { after, begin, current, left, scan, unitOf, type At, type Task } from './scan';

const task = (id: number, bin: string, sku: string, due: number, more: Partial<Task> = {}): Task => ({
  id,
  row: id,
  bin,
  zone: bin.slice(0, 1),
  sku,
  item: sku,
  unit: 'tub',
  order: 'SO-1',
  line: 1,
  customer: 'A',
  tier: 1,
  ship_by: '2027-03-01',
  qty: due,
  picked: 0,
  short: 0,
  recalled: 0,
  due,
  held: false,
  tote: 'A',
  lots: [],
  others: [],
  ...more,
});

const tasks = [
  task(1, 'C-09-4', 'GL-5', 12, { barcode: '5012345678900', others: [{ bin: 'C-14-1', qty: 40 }] }),
  task(2, 'C-13-1', 'GL-1', 4),
  task(3, '', 'KF-1', 2),
];

/** Says a row of scans and returns what was heard at last. */
function say(texts: string[], at: At = begin, on = tasks) {
  let heard;
  for (const text of texts) ({ at, heard } = scan(on, at, text));
  return { at, heard };
}

test('a row is picked by bin, item and quantity', () => {
  expect(say(['c-09-4']).at.step).toBe('item');
  expect(say(['C-09-4', 'gl-5']).at).toMatchObject({ step: 'quantity', item: 'gl-5', task: 1 });
  expect(say(['C-09-4', '5012345678900']).at.step).toBe('quantity');
  expect(say(['C-09-4', 'GL-5', '']).heard).toEqual({ kind: 'picked', qty: 12 });
  expect(say(['C-09-4', 'GL-5', '12']).heard).toEqual({ kind: 'picked', qty: 12 });
  expect(say(['C-09-4', 'GL-5', '7']).heard).toEqual({ kind: 'fewer', qty: 7 });
  expect(say(['C-09-4', 'GL-5', '0']).heard).toEqual({ kind: 'fewer', qty: 0 });
});

test('what is wrong is said, and nothing goes on', () => {
  for (const [texts, step] of [
    [['C-05-7'], 'bin'],
    [['GL-5'], 'bin'],
    [[''], 'bin'],
    [['C-09-4', 'GL-1'], 'item'],
    [['C-09-4', ''], 'item'],
    [['C-09-4', 'GL-5', '13'], 'quantity'],
    [['C-09-4', 'GL-5', 'C-13-1'], 'quantity'],
    [['C-09-4', 'GL-5', '-1'], 'quantity'],
  ] as const) {
    const { at, heard } = say([...texts]);
    expect(heard?.kind, texts.join()).toBe('wrong');
    expect(at.step, texts.join()).toBe(step);
  }
  expect(say(['x'], begin, []).heard?.kind).toBe('wrong');
});

test('a bin that is scanned twice, and an item, are no faults', () => {
  expect(say(['C-09-4', 'C-09-4'])).toMatchObject({ at: { step: 'item' }, heard: { kind: 'right' } });
  expect(say(['C-09-4', 'GL-5', 'GL-5'])).toMatchObject({ at: { step: 'quantity' }, heard: { kind: 'right' } });
});

test('another row, another bin, and a bin that was never set', () => {
  expect(say(['C-13-1'])).toMatchObject({ at: { task: 2, step: 'item' }, heard: { kind: 'right' } });
  expect(say(['C-14-1'])).toMatchObject({ at: { task: 1, step: 'item', from: 'C-14-1' }, heard: { kind: 'right' } });
  expect(say(['k-1-1'], { ...begin, task: 3 })).toMatchObject({ at: { step: 'item', from: 'K-1-1' } });
});

test('what was skipped comes last', () => {
  expect(left(tasks, [1]).map((x) => x.id)).toEqual([2, 3, 1]);
  expect(current(tasks, { ...begin, skipped: [1] })?.id).toBe(2);
  expect(current(tasks, { ...begin, task: 9, skipped: [] })?.id).toBe(1);
  expect(current([], begin)).toBeUndefined();
});

test('what waits to be sent counts as done', () => {
  const once = after(tasks, [{ task: 1, qty: 5, later: true }]);
  expect(once[0]).toMatchObject({ due: 7, picked: 5, short: 0 });
  const twice = after(tasks, [
    { task: 1, qty: 5, later: true },
    { task: 1, qty: 4, cause: 'missing' },
    { task: 2, qty: 4 },
  ]);
  expect(twice[0]).toMatchObject({ due: 0, picked: 9, short: 3 });
  expect(twice[1]).toMatchObject({ due: 0, picked: 4, short: 0 });
  expect(twice[2]).toBe(tasks[2]);
  const broken = after(tasks, [
    { task: 1, qty: 4, later: true, cause: 'damaged', short: 1 },
    { task: 1, qty: 0, cause: 'missing' },
  ]);
  expect(broken[0]).toMatchObject({ due: 0, picked: 4, short: 8 });
});

test('units agree with their number', () => {
  expect([unitOf('tub', 12), unitOf('tub', 1), unitOf('each', 3), unitOf('box', 2), unitOf('bags', 2)]).toEqual([
    'tubs',
    'tub',
    'each',
    'boxes',
    'bags',
  ]);
});

test('the lot is noted where it has to be, and known where it can only be one', () => {
  const lots = [{ lot: 'A7', qty: 3 }, { lot: 'B1', qty: 9 }, { lot: 'C2', qty: 5, stop: true }]; // prettier-ignore
  const rows = [task(1, 'C-14-2', 'GL-1', 8, { by_lots: true, lots, barcode: '5012345678900' })];
  const at: At = { ...begin, task: 1, step: 'item' };
  const item = scan(rows, at, 'GL-1');
  expect([item.at.step, item.heard]).toEqual(['lot', { kind: 'right', text: 'GL-1, right item. Now its lot.' }]);
  expect(scan(rows, item.at, '').heard).toEqual({ kind: 'wrong', text: 'Scan or type the lot that stands on it.' });
  expect(scan(rows, item.at, 'c2')).toMatchObject({ at: { step: 'lot' }, heard: { kind: 'wrong' } });
  const three = scan(rows, item.at, 'a7');
  expect(three).toMatchObject({ at: { step: 'quantity', lot: 'A7' }, heard: { kind: 'right' } });
  expect(scan(rows, three.at, '').heard).toEqual({ kind: 'of lot', qty: 3 });
  const all = scan(rows, item.at, 'B1');
  expect(scan(rows, all.at, '').heard).toEqual({ kind: 'picked', qty: 8 });
  // A carton's own code names item and lot at once.
  expect(scan(rows, at, ']C10105012345678900' + '10B1')).toMatchObject({ at: { step: 'quantity', lot: 'B1', item: 'GL-1' } });
  // Where its bin holds one lot alone nobody is asked, but of another bin that is not known.
  const one = [task(1, 'C-14-2', 'GL-1', 8, { by_lots: true, lot: 'B1', lots: [{ lot: 'B1', qty: 9 }] })];
  expect(scan(one, at, 'GL-1').at.step).toBe('quantity');
  expect(scan(one, { ...at, from: 'D-01-1' }, 'GL-1').at.step).toBe('lot');
});
