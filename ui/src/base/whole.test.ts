import { expect, test } from 'vitest';
import { readWhole } from './whole';

test.each([
  ['', 0],
  ['0', 0],
  ['007', 7],
  ['125', 125],
  [' 12 ', 12],
  ['1,200', 1200],
  ['1,234,567', 1_234_567],
  ['1 200', 1200],
  ['1\u202f200', 1200],
])('“%s” is %d', (text, n) => {
  expect(readWhole(text, undefined, ',')).toEqual({ n });
});

test.each(['12.5', '12,5', '.5', '1,20'])('%s is not whole, and is not made another number', (text) => {
  expect(readWhole(text, undefined, ',')).toEqual({ why: `${text} is not whole: type whole units.` });
});

test.each(['abc', '-3', '1e3', '1,2,3', '12 kg', '٣'])('“%s” is no whole number', (text) => {
  expect(readWhole(text, undefined, ',')).toEqual({ why: `“${text}” is not a whole number.` });
});

test('what exceeds the most is said, not cut', () => {
  expect(readWhole('101', 100)).toEqual({ why: 'At most 100.' });
  expect(readWhole('100', 100)).toEqual({ n: 100 });
  expect(readWhole('1000000000').why).toMatch(/^At most 999.999.999\.$/);
});

test('where a point parts thousands, it does', () => {
  expect(readWhole('1.200', undefined, '.')).toEqual({ n: 1200 });
  expect(readWhole('1,5', undefined, '.')).toEqual({ why: '1,5 is not whole: type whole units.' });
});
