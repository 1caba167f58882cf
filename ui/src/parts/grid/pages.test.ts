import { QueryClient } from '@tanstack/react-query';
import { expect, test } from 'vitest';
import {
  indexOf,
  layOut,
  lengthOf,
  near,
  pageQuery,
  stretchAt,
  type ListQuery,
  type PageOf,
  type Section,
  type Source,
} from './pages';

const whole: Section[] = [{ key: '', only: [] }];
const query: ListQuery = { sort: 'n' };
const idOf = (n: number) => `row ${n}`;

/** A server with so many numbers, in pages of ten. */
function server(numbers: number[]) {
  const asked: { after?: string; upto?: string }[] = [];
  const source: Source<number> = {
    list: 'numbers',
    fetch: (ask) => {
      asked.push(ask);
      const from = ask.after ? Number(ask.after) : -Infinity;
      const to = ask.upto ? Number(ask.upto) : Infinity;
      const found = numbers.filter((n) => n > from && n <= to).sort((a, b) => a - b);
      const rows = ask.upto ? found : found.slice(0, 10);
      const last = rows.at(-1);
      return Promise.resolve({ rows, next: ask.upto ?? (found.length > 10 ? String(last) : undefined) });
    },
  };
  return { source, asked, numbers };
}

async function load(client: QueryClient, source: Source<number>, pages: number, sections = whole) {
  for (let i = 0; i < pages; i++) {
    const next = layOut<number>(client, source.list, query, sections).find((s) => s.start !== undefined && !s.rows);
    if (!next) return;
    await client.fetchQuery(pageQuery(client, source, query, next.section, next.start ?? '') as never);
  }
}

const rowsOf = (client: QueryClient, sections = whole) =>
  layOut<number>(client, 'numbers', query, sections).flatMap((s) => s.rows ?? []);

test('pages come one after the other, and what has not come holds its place', async () => {
  const client = new QueryClient();
  const { source } = server(Array.from({ length: 25 }, (_, i) => i));
  expect(lengthOf(layOut(client, 'numbers', query, whole))).toBe(12);
  await load(client, source, 2);
  const all = layOut<number>(client, 'numbers', query, whole);
  expect(all.map((s) => [s.at, s.length, s.rows?.length])).toEqual([
    [0, 10, 10],
    [10, 10, 10],
    [20, 12, undefined],
  ]);
  await load(client, source, 5);
  expect(rowsOf(client)).toEqual(Array.from({ length: 25 }, (_, i) => i));
});

test('a page that is asked for again keeps its ends: what came in between is there once, what is gone is gone', async () => {
  const client = new QueryClient();
  const s = server(Array.from({ length: 25 }, (_, i) => i * 2));
  await load(client, s.source, 9);
  s.numbers.push(5, 7, 31);
  s.numbers.splice(s.numbers.indexOf(20), 1);
  for (const stretch of layOut<number>(client, 'numbers', query, whole)) {
    const again = pageQuery(client, s.source, query, stretch.section, stretch.start ?? '');
    await client.fetchQuery({ ...again, staleTime: 0 } as never);
  }
  expect(rowsOf(client)).toEqual([...s.numbers].sort((a, b) => a - b));
  expect(s.asked.at(-3)?.upto).toBe('18');
});

test('only the pages on the screen and around it are asked for', async () => {
  const client = new QueryClient();
  const { source } = server(Array.from({ length: 1000 }, (_, i) => i));
  await load(client, source, 60);
  const all = layOut<number>(client, 'numbers', query, whole);
  const there = near(all, 300, 330);
  expect(there[0]?.at).toBeGreaterThanOrEqual(230);
  expect((there.at(-1)?.at ?? 0) + 10).toBeLessThanOrEqual(401);
  expect(there.length).toBeLessThan(20);
});

test('groups are folded or open, each with pages of its own', async () => {
  const client = new QueryClient();
  const { source, asked } = server(Array.from({ length: 15 }, (_, i) => i));
  const sections: Section[] = [
    { key: 'a', only: ['k=a'], group: { open: false, rows: 40 } },
    { key: 'b', only: ['k=b'], group: { open: true, rows: 15 } },
    { key: 'c', only: ['k=c'], group: { open: false, rows: 3 } },
  ];
  await load(client, source, 9, sections);
  expect((asked[0] as ListQuery).only).toEqual(['k=b']);
  const all = layOut<number>(client, 'numbers', query, sections);
  expect(lengthOf(all)).toBe(3 + 15);
  expect(stretchAt(all, 1)?.section.key).toBe('b');
  expect(stretchAt(all, 17)?.section.key).toBe('c');
  expect(stretchAt(all, 18)).toBeUndefined();
  expect(indexOf(all, 'group c', idOf, 0)).toBe(17);
});

test('a row is found where it stands now, wherever it stood', async () => {
  const client = new QueryClient();
  const { source } = server(Array.from({ length: 25 }, (_, i) => i));
  await load(client, source, 9);
  const all = layOut<number>(client, 'numbers', query, whole);
  expect(indexOf(all, 'row 7', idOf, 7)).toBe(7);
  expect(indexOf(all, 'row 23', idOf, 4)).toBe(23);
  expect(indexOf(all, 'row 99', idOf, 4)).toBe(-1);
  const page: PageOf<number> | undefined = client.getQueryData(['numbers', 'page', query, '', '']);
  expect(page?.next).toBe('9');
});
