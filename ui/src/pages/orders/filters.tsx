import type { paths } from '../../api/schema';
import type { ListSearch } from '../../base/search';
import { showDay } from '../../base/format';
import { Choice, useList } from '../../parts/list';

export type Grouping = paths['/api/order-groups']['get']['parameters']['query']['by'];

type Asked = Omit<paths['/api/order-groups']['get']['parameters']['query'], 'by'>;

/** The orders that are looked for, as the server is asked. */
export const asked = (s: ListSearch) =>
  ({
    q: s.q,
    station: s.station,
    state: s.state === 'all' ? undefined : (s.state ?? 'open'),
    channel: s.channel,
    customer: s.customer,
    tier: s.tier ? Number(s.tier) : undefined,
    wanted: s.wanted,
  }) as Asked;

/** Which orders, by how far they are. */
export const States = () => (
  <Choice
    name="state"
    options={[
      ['', 'Unfinished'],
      ['late', 'Late'],
      ['held', 'On hold'],
      ['done', 'Finished'],
      ['all', 'All'],
    ]}
  />
);

/** Filters that came with a link are shown, so that they can be taken away. */
export function Narrowed() {
  const [s, set] = useList();
  const by = [
    ['station', s.station && `with units ${s.station}`],
    ['customer', s.customer && `customer ${s.customer}`],
    ['tier', s.tier && `tier ${s.tier}`],
    ['wanted', s.wanted && `requested ${showDay(s.wanted)}`],
  ] as const;
  if (by.every(([, text]) => !text)) return null;
  return (
    <p className="flex gap-2 pb-2">
      {by.map(
        ([name, text]) =>
          text && (
            <button key={name} className="pill" aria-pressed onClick={() => set({ [name]: undefined })}>
              {text} ×
            </button>
          ),
      )}
    </p>
  );
}

export const groupings: [Grouping, string, string][] = [
  ['customer', 'By customer', 'Customer'],
  ['channel', 'By channel', 'Channel'],
  ['tier', 'By tier', 'Tier'],
  ['wanted', 'By requested date', 'Requested'],
];

/** What the orders are grouped by, if by anything. */
export function GroupBy() {
  const [s, set] = useList();
  return (
    <select
      aria-label="Group the orders"
      className="field"
      value={s.group ?? ''}
      onChange={(e) => set({ group: e.target.value || undefined })}
    >
      <option value="">One by one</option>
      {groupings.map(([by, text]) => (
        <option key={by} value={by}>
          {text}
        </option>
      ))}
    </select>
  );
}
