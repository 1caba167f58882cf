import { expect, test } from 'vitest';
import type { GridColumn } from './column';
import { filterRows, groupRows, layOutRows, sortRows, sumRows } from './local';
import { whole } from './pages';

interface Row {
  order: string;
  day: string;
  units: number;
  minor: number;
}

const columns: GridColumn<Row>[] = [
  { name: 'order', title: 'Order', kind: 'text', group: true, by: (r) => r.order, text: (r) => `${r.order} Saltpan` },
  { name: 'day', title: 'Day', kind: 'date', group: true, by: (r) => r.day, text: (r) => r.day },
  { name: 'units', title: 'Units', kind: 'number', by: (r) => r.units, text: (r) => String(r.units), sum: String },
  { name: 'value', title: 'Value', kind: 'money', by: (r) => r.minor, text: (r) => String(r.minor / 100) },
];
const row = (order: string, day: string, units: number, minor = 0): Row => ({ order, day, units, minor });
const rows = [
  row('B', '2027-03-02', 3, 250),
  row('A', '2027-03-01', 10, 1000),
  row('B', '2027-03-01', 5, 99),
  row('C', '2027-02-28', 1),
];
const units = (some: Row[]) => some.map((r) => r.units);

test.each<[string[], number[]]>([
  [[], [3, 10, 5, 1]],
  [['order=B'], [3, 5]],
  [
    ['order=B', 'order=C'],
    [3, 5, 1],
  ],
  [['order=B', 'units>=5'], [5]],
  [['order!=B'], [10, 1]],
  [['order~b salt'], [3, 5]],
  [['units>=5'], [10, 5]],
  [['units<=3'], [3, 1]],
  [
    ['day>=2027-03-01', 'day<=2027-03-01'],
    [10, 5],
  ],
  [['value>=2.5'], [3, 10]],
  [['gone=B'], [3, 10, 5, 1]],
])('%j lets through %j', (only, want) => {
  expect(units(filterRows(rows, columns, only))).toEqual(want);
});

test('rows are sorted by numbers as numbers, and those that are alike keep their order', () => {
  expect(units(sortRows(rows, columns, 'units', undefined))).toEqual([1, 3, 5, 10]);
  expect(units(sortRows(rows, columns, 'units', true))).toEqual([10, 5, 3, 1]);
  expect(units(sortRows(rows, columns, 'order', undefined))).toEqual([10, 3, 5, 1]);
  expect(sortRows(rows, columns, 'gone', undefined)).toBe(rows);
});

test('groups have all rows once, and come to what these come to', () => {
  const [order, day] = columns as [GridColumn<Row>, GridColumn<Row>];
  expect(groupRows(rows, order, columns)).toEqual([
    { value: 'B', rows: 2, sums: { units: 8 } },
    { value: 'A', rows: 1, sums: { units: 10 } },
    { value: 'C', rows: 1, sums: { units: 1 } },
  ]);
  expect(groupRows(rows, day, columns).map((g) => g.value)).toEqual(['2027-02-28', '2027-03-01', '2027-03-02']);
  expect(sumRows(rows, columns)).toEqual({ units: 19 });
  const sections = groupRows(rows, order, columns).map((g) => ({
    key: g.value,
    only: [],
    group: { open: g.value === 'B', rows: g.rows },
  }));
  const laid = layOutRows(rows, order, sections);
  expect(laid.map((s) => [s.at, s.length, s.rows && units(s.rows)])).toEqual([
    [0, 1, undefined],
    [1, 2, [3, 5]],
    [3, 1, undefined],
    [4, 1, undefined],
  ]);
  expect(layOutRows(rows, undefined, [whole])).toMatchObject([{ at: 0, length: 4, rows }]);
});
