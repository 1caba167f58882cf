import { readFilter, type GridColumn, type Group } from './column';
import type { Section, Stretch } from './pages';

/** Lists whose rows are all there: they are sorted, filtered and grouped here as the server does it with others. */

/** In how small parts values are kept of which people give whole ones. */
const parts: Partial<Record<string, number>> = { money: 100, share: 100, weight: 1000 };

const valueOf = <T>(c: GridColumn<T>, row: T): string | number => c.by?.(row) ?? c.text(row);
const named = <T>(columns: GridColumn<T>[], name: string | undefined) => columns.find((c) => c.name === name);

/** The rows that conditions let through: of several values of one column one is enough, of several columns all are asked. */
export function filterRows<T>(rows: T[], columns: GridColumn<T>[], only: string[] = []): T[] {
  const asked = only.flatMap((text) => {
    const f = readFilter(text);
    const c = named(columns, f?.column);
    return f && c ? [{ ...f, c }] : [];
  });
  if (!asked.length) return rows;
  const equal = new Map<string, string[]>();
  for (const f of asked) if (f.op === '=') equal.set(f.column, [...(equal.get(f.column) ?? []), f.value]);
  return rows.filter((row) =>
    asked.every(({ c, op, value }) => {
      const v = valueOf(c, row);
      switch (op) {
        case '=':
          return equal.get(c.name)?.includes(String(v));
        case '!=':
          return String(v) !== value;
        case '~':
          return c.text(row).toLowerCase().includes(value.toLowerCase());
        default: {
          const than = typeof v === 'number' ? Number(value) * (parts[c.kind ?? ''] ?? 1) : value;
          return op === '>=' ? v >= than : v <= than;
        }
      }
    }),
  );
}

/** The rows by a column, those that have the same in their own order. */
export function sortRows<T>(rows: T[], columns: GridColumn<T>[], sort: string | undefined, down: boolean | undefined): T[] {
  const by = named(columns, sort)?.by;
  if (!by) return rows;
  const way = down ? -1 : 1;
  return [...rows].sort((a, b) => {
    const [x, y] = [by(a), by(b)];
    return x < y ? -way : x > y ? way : 0;
  });
}

/** What rows come to, by column. */
export function sumRows<T>(rows: T[], columns: GridColumn<T>[]): Record<string, number> {
  const out: Record<string, number> = {};
  for (const c of columns) {
    const { by } = c;
    if (c.sum && by) out[c.name] = rows.reduce((n, r) => n + Number(by(r)), 0);
  }
  return out;
}

/** The rows in groups by a column: days and numbers in their own order, others with the most rows first. */
export function groupRows<T>(rows: T[], by: GridColumn<T>, columns: GridColumn<T>[]): Group[] {
  const of = new Map<string | number, T[]>();
  for (const row of rows) {
    const v = valueOf(by, row);
    const there = of.get(v);
    if (there) there.push(row);
    else of.set(v, [row]);
  }
  return [...of]
    .sort(([a, x], [b, y]) => (by.kind === 'text' && y.length - x.length) || (a < b ? -1 : 1))
    .map(([value, some]) => ({ value: String(value), rows: some.length, sums: sumRows(some, columns) }));
}

/** What is shown of them: the rows of groups that are open beneath their heads. */
export function layOutRows<T>(rows: T[], by: GridColumn<T> | undefined, sections: Section[]): Stretch<T>[] {
  const out: Stretch<T>[] = [];
  let at = 0;
  for (const section of sections) {
    if (section.group) {
      out.push({ at: at++, length: 1, section });
      if (!section.group.open) continue;
    }
    const some = by && section.group ? rows.filter((r) => String(valueOf(by, r)) === section.key) : rows;
    out.push({ at, length: some.length, section, start: '', rows: some });
    at += some.length;
  }
  return out;
}
