import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { untouched, type ListSearch } from '../../base/search';
import { useList } from '../list';
import { readColumns, writeColumns, type GridColumn, type Shown } from './column';
import type { ListQuery, Source } from './pages';
import { useChoice } from './useChoice';

export type ListName = 'orders' | 'open' | 'items' | 'customers' | 'inbound';
export type Group = Schemas['ListGroup'];

export interface GridOptions<T> {
  list: ListName;
  /** What a row is called, for its number: “order”. */
  one: string;
  fetch: Source<T>['fetch'];
  columns: GridColumn<T>[];
  idOf: (row: T) => string;
  /** Of what can be chosen: by which it is told whether it has changed since. */
  versionOf?: (row: T) => number;
  /** What is looked for besides what the address says of any list. */
  scope?: Pick<ListQuery, 'state' | 'station'>;
  /** Filters that stand in the address under names of their own. */
  narrow?: string[];
}

const noVersion = () => 0;

/** What a page knows of its grid: what is looked for, the row in focus, what is chosen. */
export function useGrid<T>({ list, one, fetch, columns, idOf, versionOf = noVersion, scope, narrow }: GridOptions<T>) {
  const [search, set, replace] = useList();
  const { state, station } = scope ?? {};
  const only = [...(narrow ?? []), ...(search.only ?? [])].join('\n');
  const query = useMemo<ListQuery>(
    () => ({
      q: search.q,
      only: only ? only.split('\n') : undefined,
      state,
      station,
      sort: search.sort,
      down: search.down,
    }),
    [search.q, only, state, station, search.sort, search.down],
  );
  const found = { q: query.q, only: query.only, state, station };
  const sum = useQuery({
    queryKey: [list, 'sum', found, search.exact],
    queryFn: ({ signal }) =>
      ask(client.GET('/api/lists/{list}/sum', { params: { path: { list }, query: { ...found, exact: search.exact } }, signal })),
    placeholderData: keepPreviousData,
  });
  const by = columns.find((c) => c.group && c.name === search.group);
  const groups = useQuery({
    queryKey: [list, 'groups', found, by?.name, search.sort],
    queryFn: ({ signal }) =>
      ask(
        client.GET('/api/lists/{list}/groups', {
          params: { path: { list }, query: { ...found, by: by?.name ?? '', sort: search.sort } },
          signal,
        }),
      ),
    enabled: by !== undefined,
    placeholderData: (was, before) => (before?.queryKey[3] === by?.name ? was : undefined),
  });
  const views = useQuery({
    queryKey: ['views', list],
    queryFn: ({ signal }) => ask(client.GET('/api/views', { params: { query: { list } }, signal })),
    staleTime: 60_000,
  });
  // Whoever comes with nothing in the address gets the view with which the list opens, if there is one.
  const opening = untouched(search) ? views.data?.find((v) => v.opens) : undefined;
  useEffect(() => {
    if (opening) replace({ ...(opening.search as ListSearch), view: opening.id });
  }, [opening]); // eslint-disable-line react-hooks/exhaustive-deps
  const shown = useMemo(() => readColumns(search.cols, columns), [search.cols, columns]);
  const choice = useChoice(idOf, versionOf);
  const [at, setAt] = useState<{ id: string; row?: T; group?: Group; index: number }>({ id: search.row ?? '', index: 0 });
  const [changed, setChanged] = useState<T[]>([]);
  const source = useMemo<Source<T>>(() => ({ list, fetch }), [list, fetch]);
  return {
    list,
    one,
    source,
    columns,
    shown,
    setShown: (next: Shown<T>[]) => set({ cols: writeColumns(next, columns) }),
    idOf,
    versionOf,
    search,
    set,
    replace,
    views,
    query,
    found,
    sum,
    by,
    groups,
    choice,
    chooses: versionOf !== noVersion,
    /** The row in focus, if it has come; or the group whose head is. */
    at,
    setAt,
    row: at.row,
    group: at.group,
    /** Chosen rows that are no longer as they were when they were chosen. */
    changed,
    setChanged,
  };
}

export type Grid<T> = ReturnType<typeof useGrid<T>>;
