import { useQuery } from '@tanstack/react-query';
import { Link, linkOptions } from '@tanstack/react-router';
import { questions } from '../../base/questions';
import { Page } from '../../parts/Page';
import { useStrip } from '../../parts/useStrip';
import { Day, Holds, ItemLink, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { Load } from '../../parts/states';

const steps = {
  open: { link: linkOptions({ to: '/open' }), text: 'could have stock now' },
  allocated: { link: linkOptions({ to: '/release' }), text: 'could go to the floor' },
  released: { link: linkOptions({ to: '/floor' }), text: 'to be picked' },
  picked: { link: linkOptions({ to: '/packing' }), text: 'to be packed' },
  packed: { link: linkOptions({ to: '/dock' }), text: 'to be dispatched' },
  shipped: { link: linkOptions({ to: '/dock', search: { show: 'under way' } }), text: 'should have arrived' },
};
const stepOf = (station: string) => Object.entries(steps).find(([name]) => name === station)?.[1];
const nouns: Record<string, [string, string?]> = {
  open: ['open line'],
  allocated: ['allocated line'],
  released: ['pick list'],
  picked: ['order'],
  packed: ['shipment'],
  shipped: ['shipment'],
};

/** The morning's question: what waits for a person, and what is late. */
export function TodayPage() {
  const strip = useStrip();
  const late = useQuery({
    ...questions.orders({ state: 'late', sort: 'wanted' }),
  });
  const lateSum = useSum('late');
  const heldSum = useSum('held');
  const held = useQuery({
    ...questions.orders({ state: 'held' }),
  });
  const inbound = useQuery({
    ...questions.receipts(),
  });
  return (
    <Page>
      <Load of={strip}>
        {(s) => {
          const waits = s.stations.filter((x) => x.waiting > 0);
          return (
            <>
              <PageHead title={showDay(s.today)} sub={waits.length ? 'To do' : 'Nothing is left to do.'} />
              <div className="grid auto-cols-fr grid-flow-col gap-3">
                {waits.map((x) => {
                  const step = stepOf(x.station);
                  const noun = nouns[x.station] ?? ['line'];
                  if (!step) return null;
                  return (
                    <Link
                      key={x.station}
                      {...step.link}
                      className="rounded-box border border-line bg-card px-4 py-2.5 hover:border-focus"
                    >
                      <span className="font-head text-[20px] font-semibold">{showNum(x.waiting)}</span>
                      <span className="block text-mute">
                        {plural(x.waiting, noun[0], noun[1]).replace(/^[\d,]+ /, '')} {step.text}
                      </span>
                    </Link>
                  );
                })}
              </div>
            </>
          );
        }}
      </Load>
      <div className="mt-6 grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-10">
        <section>
          <h2 className="mb-1 text-[15px]">Late orders{lateSum.data && `, ${showNum(lateSum.data.rows)}`}</h2>
          <Load of={late}>
            {(d) =>
              d.orders.length === 0 ? (
                <p className="text-mute">No unfinished order was requested for an earlier day.</p>
              ) : (
                <>
                  <table className="grid-table">
                    <tbody>
                      {d.orders.slice(0, 12).map((o) => (
                        <tr key={o.number}>
                          <td>
                            <Tier n={o.tier} />
                          </td>
                          <td>
                            <Day iso={o.wanted} late />
                          </td>
                          <td>
                            <OrderLink number={o.number} />
                          </td>
                          <td className="max-w-[180px] truncate">{o.customer}</td>
                          <td>
                            <JourneyBar at={o.at} of={o.number} />
                          </td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                  {d.orders.length > 12 && (
                    <Link to="/orders" search={{ state: 'late', sort: 'wanted' }} className="ref mt-2 inline-block">
                      All late orders
                    </Link>
                  )}
                </>
              )
            }
          </Load>
        </section>
        <div className="space-y-6">
          <section>
            <h2 className="mb-1 text-[15px]">On hold{heldSum.data && `, ${showNum(heldSum.data.rows)}`}</h2>
            <Load of={held}>
              {(d) =>
                d.orders.length === 0 ? (
                  <p className="text-mute">No order is on hold.</p>
                ) : (
                  <table className="grid-table">
                    <tbody>
                      {d.orders.slice(0, 8).map((o) => (
                        <tr key={o.number}>
                          <td>
                            <OrderLink number={o.number} />
                          </td>
                          <td className="max-w-[160px] truncate">{o.customer}</td>
                          <td>
                            <Holds of={o.holds} />
                          </td>
                          <td>
                            <JourneyBar at={o.at} width={70} of={o.number} />
                          </td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                )
              }
            </Load>
          </section>
          <section>
            <h2 className="mb-1 text-[15px]">Arrivals, overdue and next</h2>
            <Load of={inbound}>
              {(d) =>
                d.inbound.length === 0 ? (
                  <p className="text-mute">Nothing is expected.</p>
                ) : (
                  <table className="grid-table">
                    <tbody>
                      {d.inbound.slice(0, 7).map((n) => (
                        <tr key={n.id}>
                          <td>{n.overdue ? <span className="late">{showDay(n.due)} · overdue</span> : showDay(n.due)}</td>
                          <td>
                            <Link to="/inbound" search={{ q: n.ref }} className="ref">
                              {n.ref}
                            </Link>
                          </td>
                          <td>
                            <ItemLink sku={n.sku} />
                          </td>
                          <td className="num">{showNum(n.left)}</td>
                          <td className="num text-mute">{n.waiting > 0 && `${showNum(n.waiting)} wanted`}</td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                )
              }
            </Load>
          </section>
        </div>
      </div>
    </Page>
  );
}

const useSum = (state: string) => useQuery(questions.orderSum(state));
