import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { ask, client } from '../api/call';
import type { paths } from '../api/schema';

type Query<P extends keyof paths> = paths[P] extends { get: { parameters: { query?: infer Q } } } ? Q : never;

/**
 * What the pages ask the server, each question with its key. A question that is given up, because another is asked in its place, is
 * broken off. Lists that come by pages have theirs in parts/grid.
 */
export const questions = {
  strip: () => queryOptions({ queryKey: ['strip'], queryFn: ({ signal }) => ask(client.GET('/api/strip', { signal })) }),
  todo: (show: 'office' | 'floor' | undefined) =>
    queryOptions({
      queryKey: ['todo', show],
      queryFn: ({ signal }) => ask(client.GET('/api/todo', { params: { query: { show } }, signal })),
    }),
  putBacks: () =>
    queryOptions({ queryKey: ['put-backs'], queryFn: ({ signal }) => ask(client.GET('/api/put-backs', { signal })) }),
  item: (number: string) =>
    queryOptions({
      queryKey: ['item', number],
      queryFn: ({ signal }) => ask(client.GET('/api/items/{number}', { params: { path: { number } }, signal })),
    }),
  order: (number: string) =>
    queryOptions({
      queryKey: ['order', number],
      queryFn: ({ signal }) => ask(client.GET('/api/orders/{number}', { params: { path: { number } }, signal })),
    }),
  trail: (number: string) =>
    queryOptions({
      queryKey: ['trail', number],
      queryFn: ({ signal }) => ask(client.GET('/api/orders/{number}/trail', { params: { path: { number } }, signal })),
    }),
  actions: () => queryOptions({ queryKey: ['actions'], queryFn: ({ signal }) => ask(client.GET('/api/actions', { signal })) }),
  orders: (query: Query<'/api/orders'>) =>
    queryOptions({
      queryKey: ['orders', query],
      queryFn: ({ signal }) => ask(client.GET('/api/orders', { params: { query }, signal })),
    }),
  customer: (number: string) =>
    queryOptions({
      queryKey: ['customer', number],
      queryFn: ({ signal }) => ask(client.GET('/api/customers/{number}', { params: { path: { number } }, signal })),
    }),
  standing: (number: string) =>
    queryOptions({
      queryKey: ['standing', number],
      queryFn: ({ signal }) => ask(client.GET('/api/customers/{number}/standing', { params: { path: { number } }, signal })),
    }),
  why: (line: number) =>
    queryOptions({
      queryKey: ['why', line],
      queryFn: ({ signal }) => ask(client.GET('/api/lines/{line}/why', { params: { path: { line } }, signal })),
    }),
  quote: (number: string) =>
    queryOptions({
      queryKey: ['quote', number],
      queryFn: ({ signal }) => ask(client.GET('/api/quotes/{number}', { params: { path: { number } }, signal })),
    }),
  buyRequests: (q: string | undefined) =>
    queryOptions({
      queryKey: ['buy-requests', q],
      queryFn: ({ signal }) => ask(client.GET('/api/buy-requests', { params: { query: { q } }, signal })),
    }),
  proposal: (number: string, warehouse: string) =>
    queryOptions({
      queryKey: ['propose-buy', number, warehouse],
      queryFn: ({ signal }) =>
        ask(client.GET('/api/items/{number}/buy', { params: { path: { number }, query: { warehouse } }, signal })),
    }),
  canPromise: (query: NonNullable<Query<'/api/promise'>>) =>
    queryOptions({
      queryKey: ['can-promise', query],
      queryFn: ({ signal }) => ask(client.GET('/api/promise', { params: { query }, signal })),
    }),
  unpromised: () =>
    queryOptions({
      queryKey: ['unpromised'],
      queryFn: ({ signal }) => ask(client.GET('/api/unpromised', { signal })),
    }),
  arrivalMoved: (inbound: number, due: string) =>
    queryOptions({
      queryKey: ['arrival-moved', inbound, due],
      queryFn: ({ signal }) =>
        ask(client.GET('/api/inbound/{inbound}/moved', { params: { path: { inbound }, query: { due } }, signal })),
    }),
  releasable: (due: { q?: string; until?: string; warehouse?: string }) =>
    queryOptions({
      queryKey: ['releasable', due],
      queryFn: ({ signal }) => ask(client.GET('/api/releasable', { params: { query: due }, signal })),
      placeholderData: keepPreviousData,
    }),
  shortages: (q: string | undefined) =>
    queryOptions({
      queryKey: ['contested', q],
      queryFn: ({ signal }) => ask(client.GET('/api/contested', { params: { query: { q } }, signal })),
    }),
  pickList: (number: string) =>
    queryOptions({
      queryKey: ['pick list', number],
      queryFn: ({ signal }) => ask(client.GET('/api/pick-lists/{number}', { params: { path: { number } }, signal })),
    }),
  shipment: (number: string) =>
    queryOptions({
      queryKey: ['shipment', number],
      queryFn: ({ signal }) => ask(client.GET('/api/shipments/{number}', { params: { path: { number } }, signal })),
    }),
  pickers: () => queryOptions({ queryKey: ['pickers'], queryFn: ({ signal }) => ask(client.GET('/api/pickers', { signal })) }),
  policies: () => queryOptions({ queryKey: ['policies'], queryFn: ({ signal }) => ask(client.GET('/api/policies', { signal })) }),
  runs: () => queryOptions({ queryKey: ['runs'], queryFn: ({ signal }) => ask(client.GET('/api/runs', { signal })) }),
  settings: () => queryOptions({ queryKey: ['settings'], queryFn: ({ signal }) => ask(client.GET('/api/settings', { signal })) }),
  people: () => queryOptions({ queryKey: ['people'], queryFn: ({ signal }) => ask(client.GET('/api/people', { signal })) }),
  importColumns: () =>
    queryOptions({
      queryKey: ['import columns'],
      queryFn: ({ signal }) => ask(client.GET('/api/imports/columns', { signal })),
      staleTime: Infinity,
    }),
  search: (q: string) =>
    queryOptions({
      queryKey: ['search', q],
      queryFn: ({ signal }) => ask(client.GET('/api/search', { params: { query: { q } }, signal })),
      staleTime: 5000,
    }),
} as const;
