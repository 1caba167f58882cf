import type { Noun } from '../../base/nouns';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { startTransition, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import { ask, client } from '../../api/call';
import { untouched, type ListSearch } from '../../base/search';
import { useList } from '../list';
import { readColumns, readFilter, writeColumns, type GridColumn, type Group, type Screen, type Shown } from './column';
import { filterRows, groupRows, sortRows, sumRows } from './local';
import type { ListQuery, Source } from './pages';
import { useChoice } from './useChoice';

export type ListName =
  | 'orders'
  | 'open'
  | 'promises'
  | 'items'
  | 'customers'
  | 'inbound'
  | 'pick-lists'
  | 'packing'
  | 'shipments'
  | 'journal'
  | 'quotes'
  | 'release'
  | 'papers'
  | 'lots';
export type { Group };

/** Lists that have been asked for as a whole, or that come in an order of their own. */
type PlainName = 'run lines' | 'demand';

export interface GridOptions<T> {
  list: ListName | PlainName;
  /** What a row is called, for its number: “order”. */
  one: Noun;
  /** Asks for a page of the list. */
  fetch?: Source<T>['fetch'];
  /** All rows of the list, if it does not come by pages. */
  rows?: T[];
  columns: GridColumn<T>[];
  idOf: (row: T) => string;
  /** Of what can be chosen: by which it is told whether it has changed since. */
  versionOf?: (row: T) => number;
  /** Whether the row can be chosen at all, if not each can. */
  can?: (row: T) => boolean;
  /** What is looked for besides what the address says of any list. */
  scope?: Pick<ListQuery, 'state' | 'station' | 'until' | 'warehouse'>;
  /** Columns that are added up over all that is found. */
  totals?: string[];
  /** Columns that chosen rows add up. */
  adds?: string[];
  /** The page has to know all rows that have come. */
  knows?: boolean;
  /** Filters that stand in the address under names of their own. */
  narrow?: string[];
}

/** How long the focus rests on a row before what stands beside it follows: not at every row that a held key passes. */
const rest = 140;

/** The value once it has not changed for so many milliseconds. */
function useSettled<T>(value: T, ms: number): T {
  const [settled, settle] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => startTransition(() => settle(value)), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}

/** How wide the screen is. It is asked for when that changes, not at each key: the browser would lay out the page to answer. */
let screenIs: Screen | undefined;
const widths = [['small', '(max-width: 1000px)'] as const, ['narrow', '(max-width: 1500px)'] as const];
const measure = (): Screen => widths.find(([, query]) => matchMedia(query).matches)?.[0] ?? 'wide';
const whenSized = (changed: () => void) => {
  const media = widths.map(([, query]) => matchMedia(query));
  const sized = () => {
    screenIs = measure();
    changed();
  };
  media.forEach((m) => m.addEventListener('change', sized));
  return () => media.forEach((m) => m.removeEventListener('change', sized));
};
const screenNow = () => (screenIs ??= measure());

const noVersion = () => 0;
const each = () => true;
const lists: Record<ListName, true> = {
  orders: true,
  open: true,
  promises: true,
  items: true,
  customers: true,
  inbound: true,
  'pick-lists': true,
  packing: true,
  shipments: true,
  journal: true,
  quotes: true,
  release: true,
  papers: true,
  lots: true,
};
const never = () => Promise.reject(new Error('this list does not come by pages'));

/** What a page knows of its grid: what is looked for, the row in focus, what is chosen. */
export function useGrid<T>(options: GridOptions<T>) {
  const { list, one, fetch, rows, columns, idOf, versionOf = noVersion, can = each, scope, narrow, totals } = options;
  const known = list in lists ? (list as ListName) : undefined;
  const [search, set, replace] = useList();
  const { state, station, until, warehouse } = scope ?? {};
  const only = [...(narrow ?? []), ...(search.only ?? [])].join('\n');
  const query = useMemo<ListQuery>(
    () => ({
      q: search.q,
      only: only ? only.split('\n') : undefined,
      state,
      station,
      until,
      warehouse,
      sort: search.sort,
      down: search.down,
    }),
    [search.q, only, state, station, until, warehouse, search.sort, search.down],
  );
  const found = { q: query.q, only: query.only, state, station, until, warehouse };
  const sum = useQuery({
    queryKey: [list, 'sum', found, search.exact],
    queryFn: ({ signal }) =>
      ask(
        client.GET('/api/lists/{list}/sum', {
          params: { path: { list: known ?? 'orders' }, query: { ...found, exact: search.exact, sums: totals } },
          signal,
        }),
      ),
    enabled: known !== undefined,
    placeholderData: keepPreviousData,
  });
  const screen = useSyncExternalStore(whenSized, screenNow);
  const shown = useMemo(() => readColumns(search.cols, columns, screen), [search.cols, columns, screen]);
  const by = columns.find((c) => c.group && c.name === search.group);
  // A group comes to what its shown columns add up to, and to what a picture shows.
  const added = shown.flatMap(({ column: c }) => (c.sum ? [c.name] : c.grows ? (c.file ?? []) : []));
  const groups = useQuery({
    queryKey: [list, 'groups', found, by?.name, search.sort, added],
    queryFn: ({ signal }) =>
      ask(
        client.GET('/api/lists/{list}/groups', {
          params: { path: { list: known ?? 'orders' }, query: { ...found, by: by?.name ?? '', sort: search.sort, sums: added } },
          signal,
        }),
      ),
    enabled: by !== undefined && known !== undefined,
    placeholderData: (was, before) => (before?.queryKey[3] === by?.name ? was : undefined),
  });
  const views = useQuery({
    queryKey: ['views', list],
    queryFn: ({ signal }) => ask(client.GET('/api/views', { params: { query: { list } }, signal })),
    staleTime: 60_000,
    enabled: known !== undefined,
  });
  // Whoever comes with nothing in the address gets the view with which the list opens, if there is one.
  const opening = untouched(search) ? views.data?.find((v) => v.opens) : undefined;
  useEffect(() => {
    if (opening) replace({ ...(opening.search as ListSearch), view: opening.id });
  }, [opening]); // eslint-disable-line react-hooks/exhaustive-deps
  const choice = useChoice(idOf, versionOf);
  const [at, setAt] = useState<{ id: string; row?: T; group?: Group; index: number }>({ id: search.row ?? '', index: 0 });
  const beside = useSettled(at, at.row === undefined ? 0 : rest);
  const [changed, setChanged] = useState<T[]>([]);
  const [loaded, setLoaded] = useState<T[]>([]);
  const step = useRef<(by: number) => void>(() => {});
  const source = useMemo<Source<T>>(() => ({ list, fetch: fetch ?? never }), [list, fetch]);
  const passed = useMemo(() => rows && filterRows(rows, columns, query.only), [rows, columns, query.only]);
  const local = useMemo(
    () => passed && sortRows(passed, columns, search.sort, search.down),
    [passed, columns, search.sort, search.down],
  );
  const inGroups = useMemo(
    () => (passed && by ? asAnswer({ groups: groupRows(passed, by, columns), total: 0 }) : undefined),
    [passed, by, columns],
  );
  const inSum = useMemo(
    () => passed && asAnswer({ rows: passed.length, more: false, sums: sumRows(passed, columns) }),
    [passed, columns],
  );
  return {
    /** Its name at the server, if it can be sorted, filtered and grouped there. */
    list: known,
    name: list,
    one,
    source,
    local,
    columns,
    shown,
    setShown: (next: Shown<T>[]) => set({ cols: writeColumns(next, columns, screen) }),
    idOf,
    versionOf,
    can,
    search,
    set,
    replace,
    views,
    query,
    found,
    sum: inSum ?? sum,
    by,
    groups: inGroups ?? groups,
    /** The values of a column that rows have which are all there. */
    valuesOf: (c: GridColumn<T>) => rows && groupRows(filterRows(rows, columns, others(query.only, c.name)), c, []),
    choice,
    chooses: versionOf !== noVersion,
    /** The row in focus, if it has come; or the group whose head is. */
    at,
    setAt,
    row: at.row,
    group: at.group,
    /** The same for what stands beside the list: it may come a moment later than the row gets the focus. */
    beside,
    /** Chosen rows that are no longer as they were when they were chosen. */
    changed,
    setChanged,
    adds: options.adds,
    /** Moves the focus so many rows. */
    step,
    /** All rows that have come, if the page has to know. */
    loaded,
    setLoaded: options.knows ? setLoaded : undefined,
  };
}

/** What was worked out here, as an answer of the server comes. */
const asAnswer = <D>(data: D) => ({ data, error: null, refetch: () => Promise.resolve() });

/** The filters by other columns. */
export const others = (only: string[] | undefined, column: string) =>
  (only ?? []).filter((f) => readFilter(f)?.column !== column);

export type Grid<T> = ReturnType<typeof useGrid<T>>;
