import { expect, test } from 'vitest';
import { searches, untouched, viewOf } from './search';

test('an address is read as it is meant, and what it does not know is passed over', () => {
  expect(searches.orders.parse({ q: 'clay', sort: 'value', down: true, only: ['channel=web'], tier: 2, colour: 'red' })).toEqual({
    q: 'clay',
    sort: 'value',
    down: true,
    only: ['channel=web'],
    tier: '2', // a number in an address is a text that has only digits
  });
  expect(searches.promise.parse({ sku: 118, qty: '144', wished: '' })).toMatchObject({ sku: '118', qty: '144' });
  expect(searches.promise.parse({ wished: '' }).wished).toBeUndefined();
});

test('what makes no sense is as if it were not there', () => {
  const read = searches.orders.parse({ q: { a: 1 }, down: 'yes', only: [], unfolded: [7], view: 'mine', sort: null });
  expect(Object.values(read).every((v) => v === undefined)).toBe(true);
  // A day that is none, in form or in the calendar, would break the field that shows it.
  for (const until of ['garbage', '9999-99-99', '2027-3-1', 20270301])
    expect(searches.release.parse({ until }).until).toBeUndefined();
  expect(searches.release.parse({ until: '2027-03-01' }).until).toBe('2027-03-01');
});

test('a view is what the address says of the list, but not the row in focus and what is open', () => {
  const s = { q: 'clay', only: ['tier=1'], group: 'channel', row: 'SO-1', unfolded: ['web'], view: 7, exact: true as const };
  expect(viewOf(s)).toEqual({ q: 'clay', only: ['tier=1'], group: 'channel' });
  expect(untouched({ row: 'SO-1' })).toBe(true);
  expect(untouched({ view: 0 })).toBe(false);
  expect(untouched({ q: 'clay' })).toBe(false);
});
