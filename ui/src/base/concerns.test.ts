import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { concerns, kinds, restsOn } from './concerns';

const root = join(import.meta.dirname, '..');
const files = readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((f) => /\.tsx?$/.test(f) && !f.includes('.test.'));

test('it is known of every question what it rests on', () => {
  const names = files.flatMap((f) =>
    [...readFileSync(join(root, f), 'utf8').matchAll(/queryKey: \[\s*'([^']+)'/g)].map((m) => m[1]),
  );
  expect(names.length).toBeGreaterThan(30);
  expect([...new Set(names)].filter((n) => n !== undefined && !(n in restsOn))).toEqual([]);
});

test('the kinds are those of the server', () => {
  const go = readFileSync(join(root, '../../internal/desk/command/touches.go'), 'utf8');
  const theirs = [...go.matchAll(/Touched\w+\s+Touched = "([^"]+)"/g)].map((m) => m[1]);
  expect([...kinds].sort()).toEqual(theirs.sort());
});

test.each([
  ['a list of what was touched', { touches: ['orders', 'stock'], orders: ['SO-1'], skus: ['A'] }, ['orders', 'page'], [], true],
  ['a list of something else', { touches: ['quotes'] }, ['orders', 'page'], [], false],
  ['its own order', { touches: ['orders'], orders: ['SO-1'], skus: [] }, ['order', 'SO-1'], [], true],
  ['another order', { touches: ['orders'], orders: ['SO-2'], skus: [] }, ['order', 'SO-1'], [], false],
  [
    'an order whose item’s stock changed',
    { touches: ['orders', 'stock'], orders: ['SO-2'], skus: ['A'] },
    ['order', 'SO-1'],
    ['A'],
    true,
  ],
  ['more than can be listed', { touches: ['orders'], all: true }, ['order', 'SO-1'], [], true],
  ['anything', { all: true }, ['item', 'A'], [], true],
  ['anything, and what is typed', { all: true }, ['draft-of', 'SO-1'], [], false],
  ['an import, and the settings', { all: true }, ['settings'], [], true],
  ['a question that nobody has thought of', { touches: ['quotes'] }, ['new'], [], true],
] as const)('%s', (_, change, key, skus, want) => {
  expect(concerns(change as never, key, skus)).toBe(want);
});
