import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Facts, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showMoney, showNum } from '../../base/format';
import { JourneyBar, stations } from '../../parts/JourneyBar';
import { Find, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { asked, GroupBy, groupings, Narrowed, States, type Grouping } from './filters';

type Group = Schemas['OrderGroup'];

/** The orders in groups, with what each comes to; a group is opened as a list of its orders. */
export function OrderGroups({ by }: { by: Grouping }) {
  const [s, set] = useList();
  const groups = useQuery({
    queryKey: ['orders', 'groups', s],
    queryFn: () => ask(client.GET('/api/order-groups', { params: { query: { ...asked(s), by } } })),
    placeholderData: keepPreviousData,
  });
  const rows = groups.data?.groups ?? [];
  const focus = useRows(rows, (g) => g.key);
  const open = (g: Group) => set({ group: undefined, [by]: g.key });
  useKey('enter', 'List the orders of the group', () => focus.row && open(focus.row));
  const total = (of: 'orders' | 'value_minor') => rows.reduce((n, g) => n + g[of], 0);
  const worth = showMoney(total('value_minor'), groups.data?.currency ?? '');
  const title = groupings.find(([name]) => name === by)?.[2] ?? '';
  return (
    <Page aside={focus.row ? <GroupAside by={by} of={focus.row} /> : <p className="text-mute">Select a row.</p>}>
      <PageHead
        title="Orders"
        sub={groups.data && `${plural(total('orders'), 'order')} in ${plural(rows.length, 'group')} · ${worth}`}
      >
        <States />
        <GroupBy />
        <Find label="Number, customer, item…" />
      </PageHead>
      <Narrowed />
      <Load of={groups}>
        {(d) =>
          d.groups.length === 0 ? (
            <Empty title="No order of this kind fits.">Take a filter away, or look in all orders.</Empty>
          ) : (
            <>
              <table className="grid-table" aria-label="Groups of orders">
                <thead>
                  <tr>
                    <th>{title}</th>
                    <th className="num">Orders</th>
                    <th className="num">Value</th>
                    <th className="num">Open</th>
                    <th className="num">Allocated</th>
                    <th>Progress</th>
                  </tr>
                </thead>
                <tbody>
                  {d.groups.map((g) => (
                    <tr key={g.key} data-row data-focus={focus.id === g.key} onClick={() => focus.setFocus(g.key)}>
                      <td>
                        <button className="ref" onClick={() => open(g)}>
                          <GroupName by={by} of={g} />
                        </button>
                      </td>
                      <td className="num">{showNum(g.orders)}</td>
                      <td className="num">
                        {showMoney(g.value_minor, d.currency)}
                        {g.others > 0 && (
                          <span className="text-mute" title={`${plural(g.others, 'order')} in other currencies left out`}>
                            {' '}
                            +{showNum(g.others)}
                          </span>
                        )}
                      </td>
                      <td className="num">{showNum(g.at.open)}</td>
                      <td className="num">{showNum(g.at.allocated)}</td>
                      <td>
                        <JourneyBar at={g.at} width={220} of={g.name ?? g.key} />
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {d.total > d.groups.length && (
                <p className="mt-2 text-mute">
                  The first {showNum(d.groups.length)} of {showNum(d.total)} groups are listed: look for part of a name, or set
                  another filter.
                </p>
              )}
            </>
          )
        }
      </Load>
    </Page>
  );
}

function GroupName({ by, of: g }: { by: Grouping; of: Group }) {
  if (by === 'tier') return <Tier n={Number(g.key)} />;
  if (by === 'wanted') return showDay(g.key);
  return g.name || g.key || 'no channel';
}

function GroupAside({ by, of: g }: { by: Grouping; of: Group }) {
  return (
    <section>
      <h2 className="mb-1 text-[14px]">
        <GroupName by={by} of={g} />
      </h2>
      <p className="mb-2 text-mute">{plural(g.orders, 'order')}</p>
      <Facts
        rows={[
          ['Ordered', showNum(g.at.ordered)],
          ...stations
            .filter((st) => g.at[st] > 0)
            .map((st): [string, string] => [st[0]?.toUpperCase() + st.slice(1), showNum(g.at[st])]),
          ['Of the open units promised', showNum(g.at.promised)],
        ]}
      />
    </section>
  );
}
