import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
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
import { TrailLink } from '../../parts/TrailLink';

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
  const print = useCommand('/api/print-labels');
  const ask = [{ number: s.number, seen: s.units }];
  const packed = s.state === 'packed';
  return (
    <>
      <PageHead title={s.number} sub={`${s.customer} · ${s.state === 'asking' ? 'packed' : s.state}`}>
        {s.state === 'asking' && <Asking of={s} />}
        <TrailLink only={[`shipment=${s.number}`]} look="btn btn-sm" />
        {packed && (
          <Act
            keys="l"
            does={t`Print labels of its packages`}
            why={may('print') ? '' : t`Printing is for the floor or a coordinator.`}
            off={print.busy}
            run={() => print.run({ ask: { shipment: s.number } })}
          >
            {t`Print labels`}
          </Act>
        )}
        {packed && (
          <Act
            keys="d"
            does={t`Dispatch the shipment`}
            look="main"
            why={may('dispatch') ? '' : t`Dispatching is for the floor or a coordinator.`}
            off={dispatch.busy}
            run={() => dispatch.run({ ask })}
          >
            {t`Dispatch`}
          </Act>
        )}
        {s.state === 'under way' && (
          <Act
            keys="m"
            does={t`Mark the shipment delivered`}
            look="main"
            why={may('deliver') ? '' : t`This is for the floor or a coordinator.`}
            off={deliver.busy}
            run={() => deliver.run({ ask })}
          >
            {t`Mark delivered`}
          </Act>
        )}
      </PageHead>
      {s.holds.length > 0 && (
        <p className="alert note-box mb-3">
          <Holds of={s.holds} /> {t`It may not leave until the hold is lifted; or unpack it.`}
        </p>
      )}
      {s.refused && packed && <p className="alert note-box mb-3">{s.refused}</p>}
      {s.waits && (
        <p className="late mb-3">
          <Trans>It may not leave yet: {say(s.waits)}.</Trans>
        </p>
      )}
      <div className="grid grid-cols-[minmax(0,1fr)_300px] items-start gap-8">
        <div>
          {s.contents.map((p) => (
            <section key={p.number} className="mb-5">
              <h2 className="flex items-center gap-3 text-lead">
                {p.number}{' '}
                <span className="font-normal text-mute">
                  {p.kind}, {showKg(p.weight_g)}
                </span>
                {p.label && <span className="font-normal text-mute">{t`SSCC ${p.label}`}</span>}
                {p.bare && packed && <span className="late">{t`its label is void: print labels again`}</span>}
                {packed && (
                  <button
                    className="btn btn-xs btn-pill"
                    disabled={!may('unpack') || unpack.busy}
                    onClick={() => unpack.run({ ask: p.number })}
                  >
                    {t`Unpack`}
                  </button>
                )}
              </h2>
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>{t`Order`}</th>
                    <th className="num">{t`Line`}</th>
                    <th>{t`Item`}</th>
                    <th className="num">{t`Units`}</th>
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
          <h2 className="text-lead">{t`Ship to`}</h2>
          <p className="mb-3">
            {s.ship_to.name}
            <br />
            {s.ship_to.street}
            <br />
            {s.ship_to.city} {s.ship_to.postcode}, {s.ship_to.country}
          </p>
          <Facts
            rows={[
              [t`Service`, s.service],
              ...(s.carrier ? ([[t`Carrier`, s.carrier]] as [string, string][]) : []),
              ...(s.tracking ? ([[t`Tracking`, s.tracking]] as [string, string][]) : []),
              [t`From`, s.warehouse],
              [t`Packages`, showNum(s.packages)],
              [t`Weight`, showKg(s.weight_g)],
              [t`Units`, showNum(s.units)],
              ...(packed ? ([[t`Ship by`, <Day key="d" iso={s.ship_by} late={s.late} />]] as [string, React.ReactNode][]) : []),
              ...(s.dispatched ? ([[t`Dispatched`, showTime(s.dispatched)]] as [string, string][]) : []),
              ...(s.expected ? ([[t`Expected`, showDay(s.expected)]] as [string, string][]) : []),
              ...(s.delivered ? ([[t`Delivered`, showTime(s.delivered)]] as [string, string][]) : []),
            ]}
          />
          {s.events.length > 0 && (
            <>
              <h2 className="mt-4 text-lead">{t`What the carrier says`}</h2>
              <ul aria-label={t`What the carrier says`}>
                {s.events.map((e) => (
                  <li key={e.at + e.kind} className={e.kind === 'exception' ? 'late' : undefined}>
                    {showTime(e.at)} {e.note ?? t`delivered`}
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
