import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { ask, client } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { shipRules } from '../../parts/asides';
import { PageHead, Tier } from '../../parts/bits';
import { plural, showMoney, showNum } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { Find, Pager, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';

export function CustomersPage() {
  const [s] = useList();
  const customers = useQuery({
    queryKey: ['customers', s],
    queryFn: () => ask(client.GET('/api/customers', { params: { query: { q: s.q, page: s.page } } })),
    placeholderData: keepPreviousData,
  });
  const focus = useRows(customers.data?.customers ?? [], (c) => c.code);
  const go = useNavigate();
  useKey(
    'enter',
    'Open the customer',
    () => focus.row && void go({ to: '/customers/$number', params: { number: focus.row.code } }),
  );
  return (
    <Page>
      <PageHead title="Customers" sub={customers.data && plural(customers.data.total, 'customer')}>
        <Find label="Part of a code or name…" />
      </PageHead>
      <Load of={customers}>
        {(d) =>
          d.customers.length === 0 ? (
            <Empty title="No customer fits this.">Look for part of a code or part of a name.</Empty>
          ) : (
            <>
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>Tier</th>
                    <th>Code</th>
                    <th>Name</th>
                    <th>Ship rule</th>
                    <th>Service</th>
                    <th>Warehouse</th>
                    <th className="num">Orders</th>
                    <th className="num">Unfinished</th>
                    <th className="num">Value</th>
                    <th>Progress</th>
                  </tr>
                </thead>
                <tbody>
                  {d.customers.map((c) => (
                    <tr key={c.code} data-row data-focus={focus.id === c.code} onClick={() => focus.setFocus(c.code)}>
                      <td>
                        <Tier n={c.tier} />
                      </td>
                      <td>
                        <Link to="/customers/$number" params={{ number: c.code }} className="ref">
                          {c.code}
                        </Link>
                      </td>
                      <td>{c.name}</td>
                      <td className="text-mute">{shipRules[c.ship_rule]}</td>
                      <td>{c.service}</td>
                      <td>{c.warehouse}</td>
                      <td className="num">{showNum(c.orders)}</td>
                      <td className="num">{c.open_orders > 0 ? showNum(c.open_orders) : ''}</td>
                      <td className="num">{showMoney(c.value_minor, c.currency)}</td>
                      <td>
                        <JourneyBar at={c.at} width={160} of={c.name} />
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Pager page={d.page} pages={d.pages} total={d.total} what="customers" />
            </>
          )
        }
      </Load>
    </Page>
  );
}
