import { expect, test } from 'vitest';
import type { Schemas } from '../../api/call';
import { count, type CountAt } from './count';

const bin = (id: number, code: string, by_lots = false) => ({ id, bin: code, sku: 'GL-1', by_lots }) as Schemas['CountView'];
const all = [bin(1, 'C-14-2'), bin(2, 'D-01-1', true)];
const typed = (...texts: string[]) =>
  texts.reduce<ReturnType<typeof count>>((was, text) => count(all, was.at, text), { heard: { kind: 'right', text: '' } });

test('a bin is counted by its code and how many lie in it', () => {
  expect(typed('x').heard.text).toBe('Bin x is not to be counted.');
  expect(typed('c-14-2', 'many').heard.kind).toBe('wrong');
  expect(typed('c-14-2', '12').done).toEqual({ of: all[0], qty: 12, lots: [] });
});

test('of an item that is kept by lots it is counted lot by lot', () => {
  const done = (...texts: string[]) => typed('D-01-1', ...texts).done;
  const lots = [
    { lot: 'A7', qty: 12 },
    { lot: 'B1', qty: 3 },
  ];
  expect(done('a7', '12', 'B1', '3', '')).toEqual({ of: all[1], qty: 15, lots });
  // What is counted again counts as it was counted last; a bin may be empty.
  expect(done('a7', '12', 'a7', '0', '')).toEqual({ of: all[1], qty: 0, lots: [] });
  expect(done('')).toBeUndefined();
  expect(typed('D-01-1', '').heard.kind).toBe('wrong');
  expect((typed('D-01-1', '(10)A7').at as CountAt).lot).toBe('A7');
  expect(typed('D-01-1', 'a7', 'b1').heard.text).toBe('b1 is not a number. Type how many of lot A7 lie in the bin.');
});
