import { expect, test } from 'vitest';
import { byTime, lossOf, matterOf, moreOf, stepOf, untilWhen, type Todo } from './words';
import { inPlace } from '../../base/say';

const matter = (over: Partial<Todo>): Todo => ({
  kind: 'release',
  document: 'order',
  number: 'SO-1',
  customers: 1,
  tier: 1,
  value_minor: 100,
  units: 12,
  lines: 2,
  day: '2027-03-01',
  by: '2027-03-01T16:00:00Z',
  on: '2027-03-01',
  cut_off: true,
  zone: 'UTC',
  next: '2027-03-02',
  missed: 0,
  verb: 'release',
  chosen: [],
  ...over,
});

test('every kind of matter has a step, words, and what is lost', () => {
  const said = (todo: Todo) => `${stepOf(todo)}: ${matterOf(todo)}; ${lossOf(todo).text}`;
  expect(said(matter({}))).toBe('Release: 12 units allocated on 2 lines; leaves Tue 2 Mar after that');
  expect(said(matter({ kind: 'pack', missed: 1 }))).toBe('Pack: 12 units picked, not packed; 1 day late, 2 after that');
  expect(said(matter({ kind: 'short', sku: 'CB-118', lines: 1, note: inPlace('Flo found fewer in C-1') }))).toMatch(
    /^Decide: 12 of CB-118 not found: Flo found fewer in C-1; /,
  );
  expect(said(matter({ kind: 'allocate', sku: 'CB-118', lines: 1 }))).toBe(
    'Allocate: 12 of CB-118 could have stock; leaves Tue 2 Mar after that',
  );
  expect(said(matter({ kind: 'hold', note: inPlace('credit'), units: 1 }))).toBe(
    'Decide: on hold (credit), 1 unit; leaves Tue 2 Mar after that',
  );
  expect(said(matter({ kind: 'keep', sku: 'CB-118', note: inPlace('2 short by then') }))).toBe(
    'Re-promise: 12 of CB-118 promised Mon 1 Mar; 2 short by then',
  );
  expect(said(matter({ kind: 'arrival', document: 'inbound', sku: 'CB-118', lines: 1 }))).toBe(
    'Reschedule: CB-118 overdue; 1 due line waits for 12 of it',
  );
  expect(said(matter({ kind: 'delivery', missed: 3 }))).toBe('Check: should have arrived; 3 days overdue');
  expect(said(matter({ kind: 'dispatch', note: inPlace('The carrier says no.') }))).toBe(
    'Dispatch: stands at the dock; The carrier says no.',
  );
  expect(said(matter({ kind: 'quote', verb: 'approve a quote' }))).toBe(
    'Approve: needs an approval; can be accepted until Mon 1 Mar',
  );
});

test('what is lost already is told from what is lost next', () => {
  expect(lossOf(matter({ missed: 1 })).late).toBe(true);
  expect(lossOf(matter({})).late).toBe(false);
});

test('a heading says until when, and how soon that is', () => {
  const at = (time: string) => new Date(`2027-03-01T${time}Z`).getTime();
  expect(untilWhen(matter({}), at('15:20:00')).left).toBe('in 40 min');
  expect(untilWhen(matter({}), at('13:50:30')).left).toBe('in 2 h 9 min');
  expect(untilWhen(matter({}), at('16:00:30')).left).toBe('in 0 min'); // until the list is asked for again
  expect(untilWhen(matter({}), at('02:00:00')).left).toBe('');
  expect(untilWhen(matter({ cut_off: false }), at('15:20:00'))).toEqual({ by: 'On Mon 1 Mar', left: '' });
});

test('the list is cut where the time changes', () => {
  const later = { by: '2027-03-02T16:00:00Z' };
  const groups = byTime([
    matter({ number: 'A' }),
    matter({ number: 'B' }),
    matter({ number: 'C', ...later }),
    matter({ ...later, cut_off: false }),
  ]);
  expect(groups.map((g) => g.map((todo) => todo.number))).toEqual([['A', 'B'], ['C'], ['SO-1']]);
  expect(byTime([])).toEqual([]);
});

test('what is not listed is counted in words', () => {
  expect(
    moreOf([
      { kind: 'pick', n: 1 },
      { kind: 'keep', n: 1200 },
    ]),
  ).toBe('1 pick list, 1,200 broken promises');
});
