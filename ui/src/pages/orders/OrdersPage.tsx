import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { OrderAside } from '../../parts/asides';
import { Day, Fault, Holds, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showMoney, showNum } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { Find, found, Pager, Sortable, useList } from '../../parts/list';
import { useChosen, useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { asked, GroupBy, groupings, Narrowed, States } from './filters';
import { OrderGroups } from './OrderGroups';

export function OrdersPage() {
  const [s] = useList();
  const by = groupings.find(([name]) => name === s.group)?.[0];
  return by ? <OrderGroups by={by} /> : <OrderList />;
}

function OrderList() {
  const [s, set] = useList();
  const orders = useQuery({
    queryKey: ['orders', s],
    queryFn: () =>
      ask(
        client.GET('/api/orders', {
          params: { query: { ...asked(s), sort: s.sort, down: s.down, page: s.page, exact: s.exact } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const rows = orders.data?.orders ?? [];
  const focus = useRows(rows, (o) => o.number);
  const picked = useChosen();
  const go = useNavigate();
  useKey('enter', 'Open the order', () => focus.row && void go({ to: '/orders/$number', params: { number: focus.row.number } }));
  useKey('space, x', 'Choose the order', () => focus.row && picked.toggle(focus.row.number));
  useKey('esc', 'Choose none', () => picked.clear(), { enabled: picked.chosen.size > 0 });
  const chosen = rows.filter((o) => picked.has(o.number));
  return (
    <Page
      aside={focus.row ? <OrderAside number={focus.row.number} /> : <p className="text-mute">Select a row.</p>}
      tray={chosen.length > 0 && <OrdersTray chosen={chosen} clear={picked.clear} />}
    >
      <PageHead
        title="Orders"
        sub={
          orders.data &&
          (orders.data.more
            ? found(orders.data, 'order')
            : `${found(orders.data, 'order')} · ${showMoney(orders.data.value_minor, orders.data.currency)}` +
              (orders.data.others > 0 ? `, ${plural(orders.data.others, 'order')} in other currencies left out` : ''))
        }
      >
        <States />
        {orders.data?.more && (
          <button className="pill" onClick={() => set({ exact: true })}>
            Count them all
          </button>
        )}
        <GroupBy />
        <Channel options={orders.data?.channels ?? []} />
        <Find label="Number, customer, item…" />
      </PageHead>
      <Narrowed />
      <Load of={orders}>
        {(d) =>
          d.orders.length === 0 ? (
            <Empty title={s.state === 'all' ? 'No order fits this.' : 'No order of this kind fits.'}>
              {s.state === 'all' ? (
                'Take a filter away, or look for part of a number, a customer or an item.'
              ) : (
                <button className="act" onClick={() => set({ state: 'all' })}>
                  Look in all orders
                </button>
              )}
            </Empty>
          ) : (
            <>
              <table className="grid-table">
                <thead>
                  <tr>
                    <th aria-label="Chosen" />
                    <Sortable by="tier">Tier</Sortable>
                    <Sortable by="wanted">Requested</Sortable>
                    <Sortable by="number">Order</Sortable>
                    <Sortable by="customer">Customer</Sortable>
                    <Sortable by="channel">Channel</Sortable>
                    <Sortable by="value" num>
                      Value
                    </Sortable>
                    <Sortable by="margin" num>
                      Margin
                    </Sortable>
                    <th className="num" title="Open lines that could go in full now, of its open lines">
                      Ready
                    </th>
                    <th>Progress</th>
                  </tr>
                </thead>
                <tbody>
                  {d.orders.map((o) => (
                    <tr key={o.number} data-row data-focus={focus.id === o.number} onClick={() => focus.setFocus(o.number)}>
                      <td>
                        <input
                          type="checkbox"
                          className="checkbox checkbox-xs"
                          aria-label={`Choose ${o.number}`}
                          checked={picked.has(o.number)}
                          onChange={() => picked.toggle(o.number)}
                        />
                      </td>
                      <td>
                        <Tier n={o.tier} />
                      </td>
                      <td>
                        <Day iso={o.wanted} late={o.late} />
                      </td>
                      <td>
                        <OrderLink number={o.number} />
                      </td>
                      <td className="max-w-[132px] truncate" title={o.customer}>
                        {o.customer}
                      </td>
                      <td className="text-mute">{o.channel}</td>
                      <td className="num">{showMoney(o.value_minor, o.currency)}</td>
                      <td className="num">
                        <Margin of={o} />
                      </td>
                      <td className="num">{o.open_lines > 0 ? `${o.ready}/${o.open_lines}` : ''}</td>
                      <td>
                        <span className="flex items-center gap-2">
                          <JourneyBar at={o.at} width={104} of={o.number} />
                          <Holds of={o.holds} />
                        </span>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Pager page={d.page} pages={d.pages} total={d.total} more={d.more} what="orders" />
            </>
          )
        }
      </Load>
    </Page>
  );
}

function Margin({ of }: { of: Schemas['OrderRow'] }) {
  const percent = of.margin_bp === undefined ? '–' : `${Math.round(of.margin_bp / 100)} %`;
  return of.data_fault ? (
    <span title={of.data_fault}>
      <Fault>{percent}</Fault>
    </span>
  ) : (
    <>{percent}</>
  );
}

function Channel({ options }: { options: string[] }) {
  const [s, set] = useList();
  return (
    <select
      aria-label="Channel"
      className="field"
      value={s.channel ?? ''}
      onChange={(e) => set({ channel: e.target.value || undefined })}
    >
      <option value="">Every channel</option>
      {options.map((o) => (
        <option key={o}>{o}</option>
      ))}
    </select>
  );
}

function OrdersTray({ chosen, clear }: { chosen: Schemas['OrderRow'][]; clear: () => void }) {
  const { may } = useSigned();
  const allocate = useCommand('/api/allocate', clear);
  const release = useCommand('/api/release', clear);
  const back = useCommand('/api/give-back', clear);
  const orders = chosen.map((o) => ({ number: o.number, seen: o.version }));
  const sum = (of: (o: Schemas['OrderRow']) => number) => chosen.reduce((n, o) => n + of(o), 0);
  const open = sum((o) => o.at.open);
  const allocated = sum((o) => o.at.allocated);
  const go = useNavigate();
  const run = () =>
    void go({ to: '/allocation', search: { order: chosen.map((o) => o.number).join(','), listed: 'yes' } as never });
  return (
    <>
      <span>
        <b>{plural(chosen.length, 'order')}</b> in the order listed
      </span>
      <span>
        <b>{showNum(open)}</b> open
      </span>
      <span>
        <b>{showNum(allocated)}</b> allocated
      </span>
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-2" onClick={clear}>
          Choose none <Key>Esc</Key>
        </button>
        {may('give back') && allocated > 0 && (
          <Act keys="b" does="Give back what is allocated" look="quiet" off={back.busy} run={() => back.run({ ask: { orders } })}>
            Give back
          </Act>
        )}
        {may('run a policy') && open > 0 && (
          <Act keys="p" does="Run a policy on the chosen orders" look="quiet" run={run}>
            Run a policy
          </Act>
        )}
        <Act
          keys="a"
          does="Allocate what is free, in the order listed"
          why={may('allocate') ? '' : 'Allocating is for a coordinator.'}
          off={open === 0 || allocate.busy}
          run={() => allocate.run({ ask: { orders } })}
        >
          Allocate what is free
        </Act>
        <Act
          keys="r"
          does="Release what is allocated"
          why={may('release') ? '' : 'Releasing is for a coordinator.'}
          off={allocated === 0 || release.busy}
          run={() => release.run({ ask: { orders } })}
        >
          Release
        </Act>
      </span>
    </>
  );
}
