import { expect, test } from 'vitest';
import { marksOf, readDecimal, writeDecimal } from './decimal';

test.each<[string, string, number, number | undefined]>([
  ['en-GB', '14.20', 2, 1420],
  ['en-GB', '14,2', 2, 1420],
  ['en-GB', '14', 2, 1400],
  ['en-GB', '1,250', 2, 125_000],
  ['en-GB', '1,250.5', 2, 125_050],
  ['en-GB', '1,25', 2, 125],
  ['en-GB', '12,34,567', 2, undefined],
  ['en-GB', '1,2500', 2, undefined],
  ['en-GB', '14.205', 2, undefined],
  ['en-GB', '14.205', 3, 14_205],
  ['en-GB', '1 250.5', 2, 125_050],
  ['en-GB', '-3', 2, undefined],
  ['en-GB', '', 2, undefined],
  ['en-GB', '12a', 2, undefined],
  ['en-DE', '1.250,50', 2, 125_050],
  ['en-DE', '1.250', 2, 125_000],
  ['en-DE', '14,2', 2, 1420],
  ['en-DE', '14.2', 2, 1420],
  ['en-CH', '1’250.50', 2, 125_050],
  ['en-CH', "1'250.50", 2, 125_050],
  ['en-FR', '1 250,5', 2, 125_050],
])('in %s “%s” with %i decimals is %s', (locale, text, digits, want) => {
  expect(readDecimal(text, digits, marksOf(locale))).toBe(want);
});

test('what a field shows it reads again, in every locale', () => {
  for (const locale of ['en-GB', 'en-US', 'en-DE', 'en-CH', 'en-FR', 'en-IN', 'en-JP']) {
    const marks = marksOf(locale);
    for (const n of [0, 5, 50, 1420, 125_050, 99_999_999_999]) {
      expect(readDecimal(writeDecimal(n, 2, marks), 2, marks)).toBe(n);
      expect(readDecimal(writeDecimal(n, 2, marks, 0), 2, marks)).toBe(n);
    }
  }
  expect(writeDecimal(1420, 2, marksOf('en-GB'))).toBe('14.20');
  expect(writeDecimal(1400, 2, marksOf('en-DE'), 0)).toBe('14');
  expect(writeDecimal(1450, 2, marksOf('en-DE'), 0)).toBe('14,5');
});
