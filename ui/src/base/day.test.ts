import { expect, test } from 'vitest';
import { fromToday, monthFirst, readDay, readFilterDay, shift, writeDay } from './day';
import { localeOf } from './locale';

// A Monday.
const today = '2027-03-01';
const read = (text: string, of = 'en-GB') => readDay(text, today, of).day ?? readDay(text, today, of).why;

test('a day is read as people say it', () => {
  for (const [typed, day] of [
    ['', ''],
    ['today', '2027-03-01'],
    ['Tomorrow', '2027-03-02'],
    ['+3', '2027-03-04'],
    ['-1', '2027-02-28'],
    ['fri', '2027-03-05'],
    ['Friday', '2027-03-05'],
    ['mo', '2027-03-08'], // a Monday's Monday is the next one
    ['tu', '2027-03-02'],
    ['1 dec', '2027-12-01'],
    ['1dec', '2027-12-01'],
    ['Dec 1', '2027-12-01'],
    ['1 Dec. 2028', '2028-12-01'],
    ['dec 1, 28', '2028-12-01'],
    ['1 march', '2027-03-01'],
    ['28 feb', '2028-02-28'], // it has gone by this year
    ['29 feb', '2028-02-29'],
    ['15', '2027-03-15'],
    ['1', '2027-03-01'],
    ['31', '2027-03-31'],
    ['2027-12-24', '2027-12-24'],
    ['fri 24 dec 2027', '2027-12-24'],
  ] as const)
    expect([typed, read(typed)]).toEqual([typed, day]);
});

test('numbers are read as the locale writes them', () => {
  expect(read('4/5')).toBe('2027-05-04');
  expect(read('4/5', 'en-US')).toBe('2027-04-05');
  expect(read('24.12.2027', 'en-DE')).toBe('2027-12-24');
  expect(read('12/24/27', 'en-US')).toBe('2027-12-24');
  expect(read('24/12', 'en-US')).toBe('There is no such day: 24/12.');
  expect([monthFirst('en-GB'), monthFirst('en-US'), monthFirst('en-CA')]).toEqual([false, true, true]);
});

test('what is no day is refused in words, and never taken for another', () => {
  for (const typed of [
    'f',
    'someday',
    '1 dez',
    'm',
    '32',
    '0',
    '1/2/3/4',
    'ju 5',
    '12345',
    '1 dec 2 3',
    'fri fri',
    '#5',
    '1;2',
    '+',
    '5 mar apr',
  ])
    expect([typed, readDay(typed, today, 'en-GB').day]).toEqual([typed, undefined]);
  for (const typed of ['30 feb', '31/4', '2027-02-29', '1/13', '1 jan 1700'])
    expect([typed, read(typed)]).toEqual([typed, `There is no such day: ${typed}.`]);
  expect(read('soon')).toBe('“soon” is not a day: type 24/12, fri, +3 or 1 dec.');
  expect(read('soon', 'en-US')).toBe('“soon” is not a day: type 12/24, fri, +3 or 1 dec.');
});

test('what a field shows it reads again, in every locale', () => {
  for (const of of ['en-GB', 'en-US', 'en-DE', 'en-CA', 'en-AU', 'en-IN', 'en-ZA', 'en-SE', 'en-CH'])
    for (let i = -60; i < 800; i += 13) {
      const day = shift(today, i);
      const shown = writeDay(day, today, of);
      expect([of, shown, readDay(shown, today, of).day]).toEqual([of, shown, day]);
      expect(/ 20\d\d/.test(shown)).toBe(day < today || day >= shift(today, 366));
      const numeric = new Intl.DateTimeFormat(of, { timeZone: 'UTC' }).format(Date.parse(`${day}T00:00:00Z`));
      expect([of, numeric, readDay(numeric, today, of).day]).toEqual([of, numeric, day]);
    }
});

test('English as it is written where somebody is', () => {
  expect(localeOf(['de-CH', 'fr'])).toBe('en-CH');
  expect(localeOf(['de'])).toBe('en-DE');
  expect(localeOf(['de-DE', 'de', 'en-US', 'en'])).toBe('en-DE'); // as browsers in Germany say it
  expect(localeOf(['en'])).toBe('en-US');
  expect(localeOf(['x-klingon!'])).toBe('en-GB');
  expect(localeOf([])).toBe('en-GB');
});

test('a day of a filter may follow today', () => {
  for (const [typed, value, text] of [
    ['today', 'today', 'today'],
    ['Tomorrow', 'today+1', 'today + 1 days'],
    ['+3', 'today+3', 'today + 3 days'],
    [' - 7', 'today-7', 'today − 7 days'],
    ['−7', 'today-7', 'today − 7 days'],
    ['+0', 'today', 'today'],
    ['today+12', 'today+12', 'today + 12 days'],
  ] as const) {
    expect(readFilterDay(typed, '2027-03-01').day, typed).toBe(value);
    expect(fromToday(value), typed).toBe(text);
  }
  expect(readFilterDay('1 dec', '2027-03-01').day).toBe('2027-12-01');
  expect(readFilterDay('', '2027-03-01').day).toBe('');
  expect(readFilterDay('soon', '2027-03-01').why).toBeTruthy();
  expect(fromToday('2027-03-01')).toBeUndefined();
});
