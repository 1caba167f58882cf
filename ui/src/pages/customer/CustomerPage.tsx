import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from '@tanstack/react-router';
import { questions } from '../../base/questions';
import { Page } from '../../parts/Page';
import { shipRules } from '../../parts/asides';
import { CustomerHold } from './CustomerHold';
import { Day, Facts, Holds, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showMoney } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { StandingFacts, useStanding } from '../../parts/StandingOf';
import { Load } from '../../parts/states';

function StandingHere({ code }: { code: string }) {
  const s = useStanding(code);
  if (!s.data) return null;
  return (
    <>
      <h2 className="mt-4 mb-1 text-lead">{t`Standing`}</h2>
      <StandingFacts s={s.data} />
    </>
  );
}

export function CustomerPage() {
  const number: string = useParams({ strict: false }).number ?? '';
  const customer = useQuery({
    ...questions.customer(number),
  });
  const orders = useQuery({
    ...questions.orders({ only: [`customer=${number}`], state: 'open' }),
  });
  return (
    <Page>
      <Load of={customer}>
        {(c) => (
          <>
            <PageHead
              title={c.name}
              sub={
                <span className="flex items-center gap-2">
                  {c.code} <Tier n={c.tier} /> {shipRules[c.ship_rule]}
                </span>
              }
            >
              <JourneyBar at={c.at} width={220} of={c.name} />
            </PageHead>
            <CustomerHold of={c} />
            <div className="grid grid-cols-[300px_minmax(0,1fr)] gap-8">
              <section>
                <Facts
                  rows={[
                    [t`Orders`, c.orders],
                    [t`Unfinished`, c.open_orders],
                    [t`Value of all orders`, showMoney(c.value_minor, c.currency)],
                    [t`Warehouse`, c.warehouse],
                    [t`Service`, c.service],
                    [t`Terms`, c.terms],
                    ...(c.email ? ([[t`Mail`, c.email]] as [string, string][]) : []),
                  ]}
                />
                <StandingHere code={c.code} />
                <h2 className="mt-4 mb-1 text-lead">{t`Addresses`}</h2>
                {c.ship_tos.map((a) => (
                  <p key={a.code} className="mb-2">
                    <b>{a.code}</b> {a.name}
                    <br />
                    <span className="text-mute">
                      {a.street}, {a.city} {a.postcode}
                    </span>
                  </p>
                ))}
              </section>
              <section>
                <h2 className="mb-1 flex items-center gap-3 text-lead">
                  <Trans>
                    Unfinished orders
                    <Link to="/orders" search={{ customer: c.code, state: 'all' }} className="ref text-row">
                      all {plural(c.orders, 'order')}
                    </Link>
                  </Trans>
                </h2>
                <Load of={orders}>
                  {(d) =>
                    d.orders.length === 0 ? (
                      <p className="text-mute">{t`Nothing is open: every order is delivered or dropped.`}</p>
                    ) : (
                      <table className="grid-table">
                        <thead>
                          <tr>
                            <th>{t`Requested`}</th>
                            <th>{t`Order`}</th>
                            <th className="num">{t`Value`}</th>
                            <th className="num">{t`Ready`}</th>
                            <th>{t`Progress`}</th>
                          </tr>
                        </thead>
                        <tbody>
                          {d.orders.map((o) => (
                            <tr key={o.number}>
                              <td>
                                <Day iso={o.wanted} late={o.late} />
                              </td>
                              <td>
                                <OrderLink number={o.number} />
                              </td>
                              <td className="num">{showMoney(o.value_minor, o.currency)}</td>
                              <td className="num">{o.open_lines > 0 ? `${o.ready}/${o.open_lines}` : ''}</td>
                              <td>
                                <span className="flex items-center gap-2">
                                  <JourneyBar at={o.at} of={o.number} />
                                  <Holds of={o.holds} />
                                </span>
                              </td>
                            </tr>
                          ))}
                        </tbody>
                      </table>
                    )
                  }
                </Load>
              </section>
            </div>
          </>
        )}
      </Load>
    </Page>
  );
}
