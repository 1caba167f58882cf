import { describe, expect, it } from 'vitest';
import { putBack, putBackAfter, type PutBackAt } from './putback';

const task = (id: number, sku: string, qty: number, bin: string, more = {}) => ({
  id,
  sku,
  item: '',
  unit: 'each',
  warehouse: 'HL',
  place: 'PUT-BACK',
  bin,
  zone: '',
  qty,
  ends: 'dropped' as const,
  order: `SO-${id}`,
  line: 1,
  customer: '',
  at: '',
  who: '',
  why: '',
  ...more,
});
const tasks = [task(1, 'GL-1', 12, 'C-01', { barcode: '4006381333931' }), task(2, 'TL-2', 3, '', { package: 'PK-7' })];
const inHand: PutBackAt = { task: 1, qty: 12 };

describe('putting back', () => {
  it('begins with the item, its barcode, or what it was in', () => {
    expect(putBack(tasks, undefined, 'gl-1').at).toEqual({ task: 1, qty: 12, item: 'gl-1' });
    expect(putBack(tasks, undefined, ' 4006381333931 ').at).toEqual({ task: 1, qty: 12, item: '4006381333931' });
    expect(putBack(tasks, undefined, 'pk-7').at).toEqual({ task: 2, qty: 3, item: undefined });
    expect(putBack(tasks, undefined, 'so-2').at?.task).toBe(2);
    expect(putBack(tasks, undefined, 'C-01').at?.task).toBe(1);
    for (const nothing of ['', 'XX-9']) {
      const { at, heard } = putBack(tasks, undefined, nothing);
      expect(at).toBeUndefined();
      expect(heard.kind).toBe('wrong');
    }
  });
  it('ends with a bin, which need not be the one that was proposed', () => {
    expect(putBack(tasks, inHand, 'c-01')).toMatchObject({ at: undefined, done: { qty: 12, bin: 'C-01' } });
    expect(putBack(tasks, inHand, 'C-77').done?.bin).toBe('C-77');
    expect(putBack(tasks, { task: 2, qty: 3 }, 'D-1').done?.task.id).toBe(2);
    expect(putBack(tasks, { ...inHand, item: 'gl-1' }, 'c-01').done?.item).toBe('gl-1');
  });
  it('takes fewer when a number is typed, and goes on with the rest', () => {
    const fewer = putBack(tasks, inHand, '5');
    expect(fewer.at).toEqual({ task: 1, qty: 5 });
    expect(fewer.done).toBeUndefined();
    const put = putBack(tasks, fewer.at, 'C-01');
    expect(put.done).toMatchObject({ qty: 5, bin: 'C-01' });
    expect(put.at).toEqual({ task: 1, qty: 7, item: undefined });
    for (const wrong of ['0', '13'])
      expect(putBack(tasks, inHand, wrong)).toMatchObject({ at: inHand, heard: { kind: 'wrong' } });
  });
  it('does not mistake another item, the place itself, or nothing for a bin', () => {
    for (const wrong of ['TL-2', 'put-back', '']) {
      const { at, done, heard } = putBack(tasks, inHand, wrong);
      expect([at, done, heard.kind]).toEqual([inHand, undefined, 'wrong']);
    }
    expect(putBack(tasks, inHand, 'GL-1')).toMatchObject({ at: { item: 'GL-1' }, heard: { kind: 'right' } });
    // A bin that is named by a number is that bin.
    expect(putBack([task(3, 'A', 9, '7')], { task: 3, qty: 9 }, '7').done?.bin).toBe('7');
  });
  it('counts what is still to be sent as done', () => {
    expect(
      putBackAfter(tasks, [
        { task: 1, qty: 5 },
        { task: 2, qty: 3 },
      ]).map((x) => [x.id, x.qty]),
    ).toEqual([[1, 7]]);
    expect(putBackAfter(tasks, [])).toHaveLength(2);
  });
});
