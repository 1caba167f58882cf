import type { SearchSchemaInput } from '@tanstack/react-router';

/** What a list page keeps in its address: filters, sorting, page. All texts; absent when empty. */
export interface ListSearch {
  q?: string;
  sort?: string;
  down?: boolean;
  exact?: boolean;
  page?: number;
  station?: string;
  state?: string;
  channel?: string;
  customer?: string;
  tier?: string;
  wanted?: string;
  group?: string;
  until?: string;
  warehouse?: string;
  show?: string;
  sku?: string;
  qty?: string;
  wished?: string;
  service?: string;
  line?: string;
  order?: string;
  quote?: string;
  policy?: string;
  compare?: string;
  listed?: string;
  /** Filters by columns: “channel=web”, “value>=1000”. */
  only?: string[];
  /** Which columns are shown, in which order, and how wide: “tier,customer:180”. */
  cols?: string;
  /** The row in focus. */
  row?: string;
  /** Groups that are open. */
  unfolded?: string[];
  /** The view that was taken; 0 for the plain list. */
  view?: number;
}

const ofTheMoment: (keyof ListSearch)[] = ['row', 'unfolded', 'view', 'page', 'exact'];

/** What of the address belongs to a view: not the row in focus, and not what is folded. */
export const viewOf = (s: ListSearch) =>
  Object.fromEntries(Object.entries(s).filter(([k, v]) => v !== undefined && !ofTheMoment.includes(k as keyof ListSearch)));

/** Whether the address says nothing of how the list is shown. */
export const untouched = (s: ListSearch) => s.view === undefined && Object.keys(viewOf(s)).length === 0;

export function listSearch(s: Record<string, unknown> & SearchSchemaInput): ListSearch {
  const out: ListSearch = {};
  for (const k of [
    'q',
    'sort',
    'station',
    'state',
    'channel',
    'customer',
    'tier',
    'wanted',
    'group',
    'until',
    'warehouse',
    'show',
    'sku',
    'qty',
    'wished',
    'service',
    'line',
    'order',
    'quote',
    'policy',
    'compare',
    'listed',
    'cols',
    'row',
  ] as const) {
    if (typeof s[k] === 'string' && s[k]) out[k] = s[k];
    else if (typeof s[k] === 'number') out[k] = String(s[k]);
  }
  for (const k of ['only', 'unfolded'] as const) {
    const list = Array.isArray(s[k]) ? s[k].filter((x): x is string => typeof x === 'string') : [];
    if (list.length) out[k] = list;
  }
  if (typeof s.view === 'number') out.view = s.view;
  if (s.down === true) out.down = true;
  if (s.exact === true) out.exact = true;
  if (typeof s.page === 'number' && s.page > 1) out.page = s.page;
  return out;
}
