import { expect, test } from 'vitest';
import { inPlace, say, type Said } from './say';

const units = (n: number): Said => ({
  code: 'units',
  pattern: '{0, plural, one {# unit} other {# units}}',
  text: `${n} in English`,
  params: [{ number: n }],
});

test('a sentence is made of its pattern and what stands in it', () => {
  const released = (n: number): Said => ({
    code: 'released',
    pattern: 'Released {0} of {1} on {2}.',
    text: 'in English',
    params: [{ said: units(n) }, { text: 'SO-1 {0}' }, { list: [inPlace('PL-1'), inPlace('PL-2')], between: ', ' }],
  });
  expect(say(released(1234))).toBe('Released 1,234 units of SO-1 {0} on PL-1, PL-2.');
  expect(say(released(1))).toBe('Released 1 unit of SO-1 {0} on PL-1, PL-2.');
});

test('days, amounts and numbers are written as the locale writes them', () => {
  const passed = { code: 'passed', pattern: '{0} has passed.', text: '', params: [{ day: '2027-03-02' }] };
  expect(say(passed)).toBe('Tue 2 Mar has passed.');
  const most = {
    code: 'most',
    pattern: 'An order may be worth at most {0}.',
    text: '',
    params: [{ minor: 123450, currency: 'GBP' }],
  };
  expect(say(most)).toBe('An order may be worth at most £1,234.50.');
  expect(say({ ...most, params: [{ minor: 1234, currency: 'JPY' }] })).toBe('An order may be worth at most JP¥1,234.');
  expect(say({ code: 'n', pattern: "Only {0, number} '{'sic'}'.", text: '', params: [{ number: 12345 }] })).toBe(
    'Only 12,345 {sic}.',
  );
});

test('what has nothing in it is said as it stands', () => {
  expect(say({ code: 'nocode', text: 'Something {new}.' })).toBe('Something {new}.');
  expect(say(inPlace('not possible'))).toBe('not possible');
  expect(say(undefined)).toBe('');
});
