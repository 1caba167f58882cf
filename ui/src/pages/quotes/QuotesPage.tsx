import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { DocumentLink, Fault, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showMoney } from '../../base/format';
import { Choice, Find, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { QuoteState } from '../../parts/QuoteState';
import { QuoteAside } from './QuoteAside';

export function QuotesPage() {
  const [s] = useList();
  const quotes = useQuery({
    queryKey: ['quotes', s.q, s.state],
    queryFn: () =>
      ask(
        client.GET('/api/quotes', { params: { query: { q: s.q, state: s.state as Schemas['QuoteRow']['state'] | undefined } } }),
      ),
  });
  const rows = quotes.data ?? [];
  const focus = useRows(rows, (q) => q.number);
  const go = useNavigate();
  useKey('enter', 'Open the quote', () => focus.row && void go({ to: '/quotes/$number', params: { number: focus.row.number } }));
  return (
    <Page aside={focus.row ? <QuoteAside number={focus.row.number} /> : <p className="text-mute">Select a row.</p>}>
      <PageHead title="Quotes" sub={quotes.data && plural(rows.length, 'quote')}>
        <Choice
          name="state"
          options={[
            ['', 'All'],
            ['open', 'Can be accepted'],
            ['to approve', 'To approve'],
            ['expired', 'Expired'],
            ['accepted', 'Accepted'],
          ]}
        />
        <Find label="Number, customer, item…" />
      </PageHead>
      <Load of={quotes}>
        {(d) =>
          d.length === 0 ? (
            <Empty title={s.q || s.state ? 'No quote fits this.' : 'There is no quote yet.'}>
              A new order can be kept as a quote instead.{' '}
              <Link to="/entry" className="ref">
                Begin one
              </Link>
            </Empty>
          ) : (
            <table className="grid-table">
              <thead>
                <tr>
                  <th>Quote</th>
                  <th>Tier</th>
                  <th>Customer</th>
                  <th>Requested</th>
                  <th>Valid until</th>
                  <th className="num">Lines</th>
                  <th className="num">Value</th>
                  <th className="num">Accepted</th>
                  <th className="num">Margin</th>
                  <th>State</th>
                </tr>
              </thead>
              <tbody>
                {d.map((q) => (
                  <tr key={q.number} data-row data-focus={focus.id === q.number} onClick={() => focus.setFocus(q.number)}>
                    <td>
                      <DocumentLink kind="quote" number={q.number} />
                    </td>
                    <td>
                      <Tier n={q.tier} />
                    </td>
                    <td className="max-w-[210px] truncate" title={q.customer}>
                      {q.customer}
                    </td>
                    <td>{showDay(q.wanted)}</td>
                    <td>{q.state === 'expired' ? <span className="late">{showDay(q.expires)}</span> : showDay(q.expires)}</td>
                    <td className="num">{q.lines}</td>
                    <td className="num">{showMoney(q.value_minor, q.currency)}</td>
                    <td className="num">{q.accepted_minor > 0 ? showMoney(q.accepted_minor, q.currency) : ''}</td>
                    <td className="num">
                      {q.data_fault ? <Fault>no cost</Fault> : q.margin_bp !== undefined && `${(q.margin_bp / 100).toFixed(1)} %`}
                    </td>
                    <td>
                      <QuoteState q={q} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )
        }
      </Load>
    </Page>
  );
}
