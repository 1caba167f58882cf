import { expect, test } from 'vitest';
import { readColumns, readFilter, share, tabbed, writeColumns, writeFilter, type GridColumn } from './column';

const columns: GridColumn<{ a: string; b: number }>[] = [
  { name: 'a', title: 'A name', text: (r) => r.a, cut: true },
  { name: 'b', title: 'Units', text: (r) => String(r.b), num: true },
  { name: 'c', title: 'More', text: () => '', aside: true },
];

test('filters are read as they are written', () => {
  for (const text of ['channel=web', 'value>=1000', 'value<=12.50', 'name~a=b>=c', 'channel!=', 'ship_by>=2026-12-01']) {
    const f = readFilter(text);
    expect(f && writeFilter(f)).toBe(text);
  }
  expect(readFilter('value>=1000')).toEqual({ column: 'value', op: '>=', value: '1000' });
  expect(readFilter('nothing')).toBeUndefined();
  expect(readFilter('=web')).toBeUndefined();
});

test('the address says which columns are shown, in which order and how wide; and nothing if they are as a list begins', () => {
  expect(readColumns(undefined, columns).map((s) => s.column.name)).toEqual(['a', 'b']);
  const shown = readColumns('c,a:180', columns);
  expect(shown.map((s) => [s.column.name, s.width])).toEqual([
    ['c', undefined],
    ['a', 180],
  ]);
  expect(writeColumns(shown, columns)).toBe('c,a:180');
  expect(writeColumns(readColumns(undefined, columns), columns)).toBeUndefined();
  // What is not there any more is passed over; without any left, the list begins as it does.
  expect(readColumns('gone,b', columns).map((s) => s.column.name)).toEqual(['b']);
  expect(readColumns('gone', columns).map((s) => s.column.name)).toEqual(['a', 'b']);
  expect(readColumns('b:3', columns)[0]?.width).toBe(44);
});

const total = (widths: number[]) => widths.reduce((n, w) => n + w, 0);

test('no name is cut while there is room, and a table takes all of it', () => {
  const widths = share([{ width: 100 }, { width: 200, cut: true }, { width: 98, grows: true }], 900);
  expect(widths[1]).toBeGreaterThanOrEqual(200);
  expect(widths[2]).toBeGreaterThan(98);
  expect(total(widths)).toBeGreaterThan(890);
  expect(total(widths)).toBeLessThanOrEqual(900);
});

test('where there is too little room the widest names are cut first, and numbers never', () => {
  const widths = share([{ width: 100 }, { width: 300, cut: true }, { width: 120, cut: true }], 400);
  expect(widths[0]).toBe(100);
  expect(widths[2]).toBe(120);
  expect(total(widths)).toBeLessThanOrEqual(400);
  const narrow = share([{ width: 100 }, { width: 300, cut: true }, { width: 120, cut: true }], 100);
  expect(narrow).toEqual([100, 84, 84]); // less than that says nothing: the table is moved sideways
  // Two that are alike are cut alike.
  expect(
    share(
      [
        { width: 300, cut: true },
        { width: 300, cut: true },
      ],
      400,
    ),
  ).toEqual([200, 200]);
});

test('a width that somebody chose stays', () => {
  expect(share([{ width: 77, fixed: true }, { width: 100 }], 500)[0]).toBe(77);
  expect(
    share(
      [
        { width: 400, fixed: true, cut: true },
        { width: 300, cut: true },
      ],
      500,
    )[0],
  ).toBe(400);
});

test('rows are copied with a tab between values, whatever stands in them', () => {
  expect(tabbed([{ a: 'one\ttwo\nthree', b: 1250 }], readColumns('b,a', columns))).toBe('Units\tA name\n1250\tone two three');
});

test('a screen that is not wide begins with fewer columns', () => {
  const some: GridColumn<{ a: string }>[] = [
    { name: 'a', title: 'A', text: (r) => r.a },
    { name: 'n', title: 'N', aside: 'narrow', text: (r) => r.a },
    { name: 's', title: 'S', aside: 'small', text: (r) => r.a },
    { name: 'x', title: 'X', aside: true, text: (r) => r.a },
  ];
  const names = (screen: 'wide' | 'narrow' | 'small') => readColumns(undefined, some, screen).map((c) => c.column.name);
  expect(names('wide')).toEqual(['a', 'n', 's']);
  expect(names('narrow')).toEqual(['a', 's']);
  expect(names('small')).toEqual(['a']);
  expect(writeColumns(readColumns(undefined, some, 'narrow'), some, 'narrow')).toBeUndefined();
  expect(writeColumns(readColumns(undefined, some, 'narrow'), some, 'wide')).toBe('a,s');
});
