import { expect, test } from 'vitest';
import { bears, lotOf } from './gs1';

// Element strings as the GS1 General Specifications (section 3, application identifiers 01, 10, 17, 21) write them.
test.each([
  ['(01)09521234543213(17)281231(10)ABC123', { item: '9521234543213', lot: 'ABC123' }],
  [']C101095212345432131728123110ABC123', { item: '9521234543213', lot: 'ABC123' }],
  [']d2010952123454321310ABC123\u001d17281231', { item: '9521234543213', lot: 'ABC123' }],
  ['(10)A7', { item: '', lot: 'A7' }],
  ['0109521234543213', { item: '9521234543213', lot: '' }],
  ['(01)00000050123455(10)A7', { item: '50123455', lot: 'A7' }],
])('%s is read', (text, want) => expect(lotOf(text)).toEqual(want));

// What is no element string is what it is: a lot that begins with digits, a number, a serial number alone, what is cut.
test.each(['A7', '10A7', '2028-03', '(21)778', '(01)0952123454321', '(99)x', '', ']C1', '(10)' + 'x'.repeat(21)])(
  '%j is not',
  (text) => expect(lotOf(text)).toBeUndefined(),
);

test('an item bears its number, its barcode, or a code with that, whether zeros are before it or not', () => {
  const item = { sku: 'GL-1', barcode: '9521234543213' };
  for (const code of ['gl-1', ' 9521234543213 ', '(01)09521234543213(10)A7']) expect(bears(item, code)).toBe(true);
  expect(bears({ ...item, barcode: '09521234543213' }, '(01)09521234543213')).toBe(true);
  for (const code of ['', 'GL-2', '(10)A7', '(01)09521234543220(10)A7']) expect(bears(item, code)).toBe(false);
  expect(bears({ sku: 'GL-1', barcode: '' }, '')).toBe(false);
});
