import { Act } from '../../parts/Act';
import { useQuery } from '@tanstack/react-query';
import { useParams } from '@tanstack/react-router';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { Asking } from '../../parts/Asking';
import { Day, Facts, Holds, ItemLink, OrderLink, PageHead } from '../../parts/bits';
import { showDay, showKg, showNum, showTime } from '../../base/format';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { say } from '../../base/say';

/** One shipment: where it goes, what is in its packages, and how far it is. */
export function ShipmentPage() {
  const number: string = useParams({ strict: false }).number ?? '';
  const shipment = useQuery({
    ...questions.shipment(number),
  });
  return (
    <Page>
      <Load of={shipment}>{(s) => <Body s={s} />}</Load>
    </Page>
  );
}

function Body({ s }: { s: Schemas['ShipmentPage'] }) {
  const { may } = useSigned();
  const dispatch = useCommand('/api/dispatch');
  const deliver = useCommand('/api/deliver');
  const unpack = useCommand('/api/unpack');
  const ask = [{ number: s.number, seen: s.units }];
  const packed = s.state === 'packed';
  return (
    <>
      <PageHead title={s.number} sub={`${s.customer} · ${s.state === 'asking' ? 'packed' : s.state}`}>
        {s.state === 'asking' && <Asking of={s} />}
        {packed && (
          <Act
            keys="d"
            does="Dispatch the shipment"
            look="main"
            why={may('dispatch') ? '' : 'Dispatching is for the floor or a coordinator.'}
            off={dispatch.busy}
            run={() => dispatch.run({ ask })}
          >
            Dispatch
          </Act>
        )}
        {s.state === 'under way' && (
          <Act
            keys="m"
            does="Mark the shipment delivered"
            look="main"
            why={may('deliver') ? '' : 'This is for the floor or a coordinator.'}
            off={deliver.busy}
            run={() => deliver.run({ ask })}
          >
            Mark delivered
          </Act>
        )}
      </PageHead>
      {s.holds.length > 0 && (
        <p className="alert note-box mb-3">
          <Holds of={s.holds} /> It may not leave until the hold is lifted; or unpack it.
        </p>
      )}
      {s.refused && packed && <p className="alert note-box mb-3">{s.refused}</p>}
      {s.waits && <p className="late mb-3">It may not leave yet: {say(s.waits)}.</p>}
      <div className="grid grid-cols-[minmax(0,1fr)_300px] items-start gap-8">
        <div>
          {s.contents.map((p) => (
            <section key={p.number} className="mb-5">
              <h2 className="flex items-center gap-3 text-lead">
                {p.number}{' '}
                <span className="font-normal text-mute">
                  {p.kind}, {showKg(p.weight_g)}
                </span>
                {packed && (
                  <button
                    className="btn btn-xs btn-pill"
                    disabled={!may('unpack') || unpack.busy}
                    onClick={() => unpack.run({ ask: p.number })}
                  >
                    Unpack
                  </button>
                )}
              </h2>
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>Order</th>
                    <th className="num">Line</th>
                    <th>Item</th>
                    <th className="num">Units</th>
                  </tr>
                </thead>
                <tbody>
                  {p.contents.map((c) => (
                    <tr key={c.order + String(c.line)}>
                      <td>
                        <OrderLink number={c.order} />
                      </td>
                      <td className="num">{c.line}</td>
                      <td>
                        <ItemLink sku={c.sku} /> <span className="text-mute">{c.item}</span>
                      </td>
                      <td className="num">
                        {showNum(c.qty)} <span className="text-mute">{c.unit}</span>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </section>
          ))}
        </div>
        <section className="rounded-box border border-line bg-card p-4">
          <h2 className="text-lead">Ship to</h2>
          <p className="mb-3">
            {s.ship_to.name}
            <br />
            {s.ship_to.street}
            <br />
            {s.ship_to.city} {s.ship_to.postcode}, {s.ship_to.country}
          </p>
          <Facts
            rows={[
              ['Service', s.service],
              ...(s.carrier ? ([['Carrier', s.carrier]] as [string, string][]) : []),
              ...(s.tracking ? ([['Tracking', s.tracking]] as [string, string][]) : []),
              ['From', s.warehouse],
              ['Packages', showNum(s.packages)],
              ['Weight', showKg(s.weight_g)],
              ['Units', showNum(s.units)],
              ...(packed ? ([['Ship by', <Day key="d" iso={s.ship_by} late={s.late} />]] as [string, React.ReactNode][]) : []),
              ...(s.dispatched ? ([['Dispatched', showTime(s.dispatched)]] as [string, string][]) : []),
              ...(s.expected ? ([['Expected', showDay(s.expected)]] as [string, string][]) : []),
              ...(s.delivered ? ([['Delivered', showTime(s.delivered)]] as [string, string][]) : []),
            ]}
          />
          {s.events.length > 0 && (
            <>
              <h2 className="mt-4 text-lead">What the carrier says</h2>
              <ul aria-label="What the carrier says">
                {s.events.map((e) => (
                  <li key={e.at + e.kind} className={e.kind === 'exception' ? 'late' : undefined}>
                    {showTime(e.at)} {e.note ?? 'delivered'}
                  </li>
                ))}
              </ul>
            </>
          )}
        </section>
      </div>
    </>
  );
}
