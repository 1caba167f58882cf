import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { ask, client } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { can, ItemAside, OrderAside } from '../../parts/asides';
import { Day, Holds, ItemLink, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { showDay, showNum } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { Find, found, Pager, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { WhyAside } from '../../parts/Why';

/** Lines with open units: what free stock can help first, then what waits for an arrival. */
export function OpenPage() {
  const [s] = useList();
  const { may } = useSigned();
  const open = useQuery({
    queryKey: ['open', s],
    queryFn: () => ask(client.GET('/api/open', { params: { query: { q: s.q, page: s.page } } })),
    placeholderData: keepPreviousData,
  });
  const focus = useRows(open.data?.lines ?? [], (l) => String(l.id));
  const allocate = useCommand('/api/allocate');
  const go = useNavigate();
  const row = focus.row;
  const give = row ? can(row, 'allocate').qty : 0;
  const run = (l: typeof row) =>
    l && allocate.run({ ask: { lines: [{ line: l.id, qty: can(l, 'allocate').qty, seen: l.version }] } });
  useKey('a', 'Allocate what is free to the line', () => run(row), { enabled: may('allocate') && give > 0 });
  useKey('enter', 'Open the order', () => row && void go({ to: '/orders/$number', params: { number: row.order } }));
  return (
    <Page
      aside={
        row ? (
          <>
            <ItemAside sku={row.sku} warehouse={row.warehouse} />
            <WhyAside line={row.id} />
            <OrderAside number={row.order} except={row.id} />
          </>
        ) : (
          <p className="text-mute">Select a row.</p>
        )
      }
    >
      <PageHead
        title="Open"
        sub={open.data && `${found(open.data, 'line')} still want stock; those that can be helped now come first`}
      >
        <Find label="Order, customer, item…" />
      </PageHead>
      <Load of={open}>
        {(d) =>
          d.lines.length === 0 ? (
            <Empty
              title={
                s.q ? `No open line has “${s.q}”.` : 'No line is open: everything that was ordered is allocated or further on.'
              }
            >
              New lines appear here as orders come in.
            </Empty>
          ) : (
            <>
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>Tier</th>
                    <th>Ship by</th>
                    <th>Order</th>
                    <th>Customer</th>
                    <th>Item</th>
                    <th className="num">Open</th>
                    <th className="num">Free at</th>
                    <th>Next arrival</th>
                    <th>Units</th>
                    <th aria-label="Allocate" />
                  </tr>
                </thead>
                <tbody>
                  {d.lines.map((l) => {
                    const c = can(l, 'allocate');
                    const focused = focus.id === String(l.id);
                    return (
                      <tr key={l.id} data-row data-focus={focused} onClick={() => focus.setFocus(String(l.id))}>
                        <td>
                          <Tier n={l.tier} />
                        </td>
                        <td>
                          <Day iso={l.ship_by} late={l.late} />
                        </td>
                        <td>
                          <OrderLink number={l.order} />
                        </td>
                        <td className="max-w-[92px] truncate" title={l.customer}>
                          {l.customer}
                        </td>
                        <td className="max-w-[138px] truncate" title={l.item}>
                          <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
                        </td>
                        <td className="num">{showNum(l.at.open)}</td>
                        <td className="num">
                          {showNum(l.free)} <span className="text-mute">{l.warehouse}</span>
                          {l.elsewhere > 0 && (
                            <span className="text-mute" title="free in other warehouses">
                              {' '}
                              +{showNum(l.elsewhere)}
                            </span>
                          )}
                        </td>
                        <td>
                          {l.next ? (
                            <span className={l.next.overdue ? 'late' : ''}>
                              {showDay(l.next.due)}
                              {l.next.overdue && ' · overdue'}
                            </span>
                          ) : (
                            l.at.open > l.free && <span className="text-mute">no supply due</span>
                          )}
                        </td>
                        <td>
                          <span className="flex items-center gap-2">
                            <JourneyBar at={l.at} width={48} of={`${l.order} line ${l.line}`} />
                            <Holds of={l.holds} />
                          </span>
                        </td>
                        <td className="text-right">
                          {c.qty > 0 && (
                            <button
                              className="pill"
                              disabled={!may('allocate') || allocate.busy}
                              title={may('allocate') ? undefined : 'for a coordinator'}
                              onClick={(e) => {
                                e.stopPropagation();
                                run(l);
                              }}
                            >
                              Allocate {showNum(c.qty)} {focused && <Key>A</Key>}
                            </button>
                          )}
                        </td>
                      </tr>
                    );
                  })}
                </tbody>
              </table>
              <Pager page={d.page} pages={d.pages} total={d.total} more={d.more} what="lines" />
            </>
          )
        }
      </Load>
    </Page>
  );
}
