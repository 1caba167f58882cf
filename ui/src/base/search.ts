import * as z from 'zod/mini';

/** A text; a number is one, too, since an address does not tell them apart. What is neither is passed over. */
const text = z.catch(
  z.optional(
    z.pipe(
      z.union([z.string(), z.number()]),
      z.transform((v) => String(v) || undefined),
    ),
  ),
  undefined,
);
/** A day; what is none is passed over. */
const day = z.catch(
  z.optional(
    z.string().check(
      z.regex(/^\d{4}-\d\d-\d\d$/),
      z.refine((v) => !Number.isNaN(Date.parse(v))),
    ),
  ),
  undefined,
);
const flag = z.catch(z.optional(z.literal(true)), undefined);
const number = z.catch(z.optional(z.number()), undefined);
const texts = z.catch(z.optional(z.array(z.string()).check(z.minLength(1))), undefined);

/** What the address says of any list. */
const list = {
  /** Words that are looked for. */
  q: text,
  sort: text,
  down: flag,
  /** Count all, however many there are. */
  exact: flag,
  /** Filters by columns: “channel=web”, “value>=1000”. */
  only: texts,
  group: text,
  /** Groups that are open. */
  unfolded: texts,
  /** Which columns are shown, in which order, and how wide: “tier,customer:180”. */
  cols: text,
  /** The number or key of the row with the focus. */
  row: text,
  /** The view that was taken; 0 for the plain list. */
  view: number,
};

/** What the address of each kind of page may say; all else is passed over. */
export const searches = {
  none: z.object({}),
  list: z.object(list),
  orders: z.object({ ...list, state: text, station: text, channel: text, customer: text, tier: text, wanted: text }),
  /** Lists of things in one of several states. */
  stated: z.object({ ...list, state: text }),
  release: z.object({ ...list, state: text, until: day, warehouse: text }),
  paper: z.object({ paper: text }),
  /** The sheet by which a list is picked. */
  sheet: z.object({ sheet: text }),
  bench: z.object({ at: text }),
  words: z.object({ q: text }),
  shown: z.object({ show: text }),
  shortages: z.object({ ...list, sku: text, warehouse: text }),
  entry: z.object({
    order: text,
    quote: text,
    state: text,
    customer: text,
    sku: text,
    qty: text,
    wished: day,
    service: text,
    warehouse: text,
  }),
  promise: z.object({
    ...list,
    sku: text,
    qty: text,
    wished: day,
    customer: text,
    service: text,
    warehouse: text,
    line: text,
  }),
  allocation: z.object({ ...list, policy: text, compare: text, order: text, channel: text, customer: text, listed: text }),
};

type Said<K extends keyof typeof searches> = Partial<z.infer<(typeof searches)[K]>>;

/** All that the address of some page may say. */
export type ListSearch = Said<'orders'> & Said<'release'> & Said<'shown'> & Said<'entry'> & Said<'promise'> & Said<'allocation'>;

const ofTheMoment: (keyof ListSearch)[] = ['row', 'unfolded', 'view', 'exact'];

/** What of the address belongs to a view: not the row in focus, and not what is folded. */
export const viewOf = (s: ListSearch) =>
  Object.fromEntries(Object.entries(s).filter(([k, v]) => v !== undefined && !ofTheMoment.includes(k as keyof ListSearch)));

/** Whether the address says nothing of how the list is shown. */
export const untouched = (s: ListSearch) => s.view === undefined && Object.keys(viewOf(s)).length === 0;
