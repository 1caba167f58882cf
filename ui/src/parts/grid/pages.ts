import type { QueryClient, UseQueryOptions } from '@tanstack/react-query';
import type { paths } from '../../api/schema';

/** Which rows of a list are looked for, and in which order, as the server is asked. */
export interface ListQuery {
  q?: string;
  only?: string[];
  state?: string;
  station?: NonNullable<paths['/api/orders']['get']['parameters']['query']>['station'];
  /** Of allocated lines: which count as due, and where they are allocated. */
  until?: string;
  warehouse?: string;
  sort?: string;
  down?: boolean;
}

export interface PageOf<T> {
  rows: T[];
  /** After which the next page begins; absent on the last one. */
  next?: string;
}

/** Where the rows of a list come from. */
export interface Source<T> {
  list: string;
  fetch: (ask: ListQuery & { after?: string; upto?: string }, signal: AbortSignal) => Promise<PageOf<T>>;
}

/** Rows of a list under one head: a group, or the whole list without any. */
export interface Section {
  key: string;
  only: string[];
  /** It is a group, which is open or folded. */
  group?: { open: boolean; rows: number };
}

/** A stretch of what is shown, one row below the other: the head of a group, or a page of rows. */
export interface Stretch<T> {
  at: number;
  length: number;
  section: Section;
  /** Absent for the head of a group. */
  start?: string;
  /** Absent until they have come. */
  rows?: T[];
}

/** Rows that are there in place of those that have not come. */
const awaited = 12;

const keyOf = (list: string, query: ListQuery, section: string, start: string) => [list, 'page', query, section, start];

/** Lays what is known of the sections one below the other: each page begins where the one before it ended. */
export function layOut<T>(client: QueryClient, list: string, query: ListQuery, sections: Section[]): Stretch<T>[] {
  const out: Stretch<T>[] = [];
  let at = 0;
  for (const section of sections) {
    if (section.group) {
      out.push({ at: at++, length: 1, section });
      if (!section.group.open) continue;
    }
    for (let start: string | undefined = ''; start !== undefined;) {
      const page: PageOf<T> | undefined = client.getQueryData(keyOf(list, query, section.key, start));
      const length = page ? page.rows.length : Math.min(awaited, section.group?.rows ?? awaited);
      out.push({ at, length, section, start, rows: page?.rows });
      at += length;
      start = page?.next;
    }
  }
  return out;
}

/** How many rows before and after those on the screen are fetched with them. */
const around = 60;

/** The pages that are on the screen from one row to another, or nearly so. */
export const near = <T>(all: Stretch<T>[], from: number, to: number) =>
  all.filter((s) => s.start !== undefined && s.at <= to + around && s.at + s.length >= from - around);

/** Asks for a page. One that was there before is asked for again between the same ends, so that none comes twice and none is missed. */
export function pageQuery<T>(
  client: QueryClient,
  source: Source<T>,
  query: ListQuery,
  section: Section,
  start: string,
): UseQueryOptions<PageOf<T>, Error> & { queryKey: unknown[] } {
  const queryKey = keyOf(source.list, query, section.key, start);
  return {
    queryKey,
    queryFn: ({ signal }) =>
      source.fetch(
        {
          ...query,
          only: [...(query.only ?? []), ...section.only],
          after: start || undefined,
          upto: client.getQueryData<PageOf<T>>(queryKey)?.next,
        },
        signal,
      ),
    gcTime: 30 * 60_000,
    notifyOnChangeProps: ['data', 'error'],
  };
}

/** What stands at a row of what is shown. */
export function stretchAt<T>(all: Stretch<T>[], index: number): Stretch<T> | undefined {
  let low = 0;
  let high = all.length - 1;
  while (low <= high) {
    const mid = (low + high) >> 1;
    const s = all[mid];
    if (!s) return undefined;
    if (index < s.at) high = mid - 1;
    else if (index >= s.at + s.length) low = mid + 1;
    else return s;
  }
  return undefined;
}

/** How many rows there are, heads of groups and rows that have not come among them. */
export function lengthOf<T>(all: Stretch<T>[]): number {
  const last = all.at(-1);
  return last ? last.at + last.length : 0;
}

/** The first page of the whole list. */
export const whole: Section = { key: '', only: [] };

/** At which row that of an id stands: first where it stood before, then anywhere. */
export function indexOf<T>(all: Stretch<T>[], id: string, idOf: (row: T) => string, hint: number): number {
  const there = stretchAt(all, hint);
  const row = there?.rows?.[hint - there.at];
  if (row !== undefined && idOf(row) === id) return hint;
  for (const s of all) {
    if (s.start === undefined) {
      if (groupId(s.section) === id) return s.at;
      continue;
    }
    const i = s.rows?.findIndex((r) => idOf(r) === id) ?? -1;
    if (i >= 0) return s.at + i;
  }
  return -1;
}

export const groupId = (s: Section) => `group ${s.key}`;
