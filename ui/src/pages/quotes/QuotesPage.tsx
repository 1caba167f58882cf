import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { DocumentLink, Fault, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showMoney, showNum, showShare } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { Empty, Load } from '../../parts/states';
import { QuoteState } from '../../parts/QuoteState';
import { QuoteAside } from './QuoteAside';

type Quote = Schemas['QuoteRow'];

const columns: GridColumn<Quote>[] = [
  {
    name: 'number',
    title: 'Quote',
    by: (q) => q.number,
    text: (q) => q.number,
    cell: (q) => <DocumentLink kind="quote" number={q.number} />,
    beside: 8,
  },
  { name: 'tier', title: 'Tier', by: (q) => q.tier, text: (q) => String(q.tier), cell: (q) => <Tier n={q.tier} /> },
  { name: 'customer', title: 'Customer', cut: true, by: (q) => q.customer, text: (q) => q.customer },
  { name: 'wanted', title: 'Requested', by: (q) => q.wanted, text: (q) => showDay(q.wanted) },
  {
    name: 'expires',
    title: 'Valid until',
    by: (q) => q.expires,
    text: (q) => showDay(q.expires),
    cell: (q) => (q.state === 'expired' ? <span className="late">{showDay(q.expires)}</span> : showDay(q.expires)),
    beside: 6,
  },
  { name: 'lines', title: 'Lines', num: true, by: (q) => q.lines, text: (q) => showNum(q.lines) },
  { name: 'value', title: 'Value', num: true, by: (q) => q.value_minor, text: (q) => showMoney(q.value_minor, q.currency) },
  {
    name: 'accepted',
    title: 'Accepted',
    num: true,
    by: (q) => q.accepted_minor,
    text: (q) => (q.accepted_minor > 0 ? showMoney(q.accepted_minor, q.currency) : ''),
  },
  {
    name: 'margin',
    title: 'Margin',
    num: true,
    by: (q) => q.margin_bp ?? -1e9,
    text: (q) => (q.data_fault ? 'no cost' : q.margin_bp === undefined ? '' : showShare(q.margin_bp)),
    cell: (q) => (q.data_fault ? <Fault>no cost</Fault> : q.margin_bp !== undefined && showShare(q.margin_bp)),
    beside: (q) => (q.data_fault ? 24 : 0),
  },
  { name: 'state', title: 'State', by: (q) => q.state, text: (q) => q.state, cell: (q) => <QuoteState q={q} />, beside: 40 },
];

const numberOf = (q: Quote) => q.number;

export function QuotesPage() {
  const [s] = useList();
  const quotes = useQuery(questions.quotes(s.q, s.state as Quote['state'] | undefined));
  const grid = useGrid<Quote>({ list: 'quotes', one: 'quote', rows: quotes.data ?? none, columns, idOf: numberOf });
  const go = useNavigate();
  return (
    <Page
      fill
      aside={grid.beside.row ? <QuoteAside number={grid.beside.row.number} /> : <p className="text-mute">Select a row.</p>}
    >
      <PageHead title="Quotes" sub={quotes.data && plural(quotes.data.length, 'quote')}>
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
        <More grid={grid} />
      </PageHead>
      <Load of={quotes}>
        {() => (
          <DataGrid
            grid={grid}
            label="Quotes"
            open={(q) => void go({ to: '/quotes/$number', params: { number: q.number } })}
            opens="Open the quote"
            empty={
              <Empty title={s.q || s.state ? 'No quote fits this.' : 'There is no quote yet.'}>
                A new order can be kept as a quote instead.{' '}
                <Link to="/entry" className="ref">
                  Begin one
                </Link>
              </Empty>
            }
          />
        )}
      </Load>
    </Page>
  );
}

const none: Quote[] = [];
