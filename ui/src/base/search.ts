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
}

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
  ] as const) {
    if (typeof s[k] === 'string' && s[k]) out[k] = s[k];
    else if (typeof s[k] === 'number') out[k] = String(s[k]);
  }
  if (s.down === true) out.down = true;
  if (s.exact === true) out.exact = true;
  if (typeof s.page === 'number' && s.page > 1) out.page = s.page;
  return out;
}
