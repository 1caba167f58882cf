import type { Schemas } from '../api/call';

/** What a command changes, as the server says it. */
export const kinds = [
  'orders',
  'stock',
  'pick lists',
  'shipments',
  'inbound',
  'quotes',
  'requests to buy',
  'policies',
  'people',
  'views',
  'papers',
  'put-backs',
] as const;
export type Kind = (typeof kinds)[number];

/**
 * What each question rests on, by the name with which its key begins. When that changes it is asked again. What people type and look for
 * themselves is not.
 */
export const restsOn: Record<string, readonly Kind[]> = {
  me: [],
  search: [],
  progress: [],
  notices: [],
  'import columns': [],
  'demo people': [],
  'draft-of': [],
  rehearsal: [],
  strip: ['orders', 'stock', 'pick lists', 'shipments', 'inbound'],
  todo: ['orders', 'stock', 'pick lists', 'shipments', 'inbound', 'quotes', 'requests to buy'],
  orders: ['orders', 'stock'],
  order: ['orders', 'stock', 'pick lists', 'shipments', 'inbound'],
  trail: ['orders'],
  journal: ['orders', 'stock', 'pick lists', 'shipments', 'inbound'],
  actions: ['orders', 'stock'],
  open: ['orders', 'stock', 'inbound'],
  release: ['orders', 'stock'],
  releasable: ['orders', 'stock'],
  'release try': ['orders', 'stock'],
  'quick choice': ['orders', 'stock'],
  'pack try': ['orders', 'shipments'],
  'propose packages': ['orders', 'shipments'],
  items: ['orders', 'stock', 'inbound'],
  item: ['orders', 'stock', 'inbound', 'requests to buy'],
  customers: ['orders'],
  customer: ['orders'],
  standing: ['orders', 'stock'],
  inbound: ['inbound', 'orders'],
  'arrival-moved': ['inbound', 'orders', 'stock'],
  'can-promise': ['orders', 'stock', 'inbound'],
  promises: ['orders', 'stock', 'inbound'],
  unpromised: ['orders'],
  why: ['orders', 'stock', 'inbound', 'policies'],
  room: ['orders', 'stock', 'inbound'],
  contested: ['orders', 'stock', 'inbound'],
  contest: ['orders', 'stock', 'inbound'],
  'what if': ['orders', 'stock', 'inbound'],
  draft: ['orders', 'stock', 'inbound', 'quotes'],
  quotes: ['quotes'],
  quote: ['quotes', 'orders'],
  'buy-requests': ['requests to buy'],
  'propose-buy': ['orders', 'stock', 'inbound', 'requests to buy'],
  'pick-lists': ['pick lists', 'orders'],
  'recall try': ['orders', 'stock', 'pick lists', 'shipments'],
  'put-backs': ['put-backs'],
  counts: ['stock'],
  pickers: ['pick lists', 'people'],
  'pick list': ['pick lists', 'orders', 'papers'],
  papers: ['papers'],
  lots: ['stock', 'orders', 'shipments', 'put-backs'],
  lot: ['stock', 'orders', 'shipments', 'put-backs'],
  'lot try': ['stock', 'orders', 'shipments', 'pick lists'],
  packing: ['orders', 'shipments', 'pick lists'],
  shipments: ['shipments', 'orders'],
  shipment: ['shipments', 'orders'],
  policies: ['policies'],
  runs: ['policies', 'orders'],
  settings: [],
  people: ['people'],
  views: ['views'],
};

/** What was changed: of one command, or of several that were gathered. */
export interface Change {
  command?: number;
  who?: string;
  orders?: string[];
  skus?: string[];
  /** More orders and items than can be listed. */
  all?: boolean;
  /** The kinds of things; any if absent. */
  touches?: string[];
  /** What came of what they asked for before. */
  news?: Schemas['Said'];
}

/** Questions of one order or item are asked again only if it is theirs. */
const ofOne: Record<string, 'orders' | 'skus'> = { order: 'orders', trail: 'orders', item: 'skus' };

/** Whether a question has to be asked again after a change; `skus` are the items that its answer shows. */
export function concerns(change: Change, key: readonly unknown[], skus: readonly string[] = []): boolean {
  const name = String(key[0]);
  const on = restsOn[name];
  if (on?.length === 0) return name === 'settings' && change.touches === undefined;
  if (on && change.touches && !change.touches.some((t) => on.includes(t as Kind))) return false;
  const one = ofOne[name];
  if (!one || change.all) return true;
  // An order is touched, too, when the stock of one of its items is.
  return (
    (change[one]?.includes(String(key[1])) ?? false) ||
    (name === 'order' && (change.skus?.some((s) => skus.includes(s)) ?? false))
  );
}
