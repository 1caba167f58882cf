import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
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
    title: t`Quote`,
    by: (q) => q.number,
    text: (q) => q.number,
    cell: (q) => <DocumentLink kind="quote" number={q.number} />,
    beside: 8,
  },
  { name: 'tier', title: t`Tier`, by: (q) => q.tier, text: (q) => String(q.tier), cell: (q) => <Tier n={q.tier} /> },
  { name: 'customer', title: t`Customer`, cut: true, by: (q) => q.customer, text: (q) => q.customer },
  { name: 'wanted', title: t`Requested`, by: (q) => q.wanted, text: (q) => showDay(q.wanted) },
  {
    name: 'expires',
    title: t`Valid until`,
    by: (q) => q.expires,
    text: (q) => showDay(q.expires),
    cell: (q) => (q.state === 'expired' ? <span className="late">{showDay(q.expires)}</span> : showDay(q.expires)),
    beside: 6,
  },
  { name: 'lines', title: t`Lines`, num: true, by: (q) => q.lines, text: (q) => showNum(q.lines) },
  { name: 'value', title: t`Value`, num: true, by: (q) => q.value_minor, text: (q) => showMoney(q.value_minor, q.currency) },
  {
    name: 'accepted',
    title: t`Accepted`,
    num: true,
    by: (q) => q.accepted_minor,
    text: (q) => (q.accepted_minor > 0 ? showMoney(q.accepted_minor, q.currency) : ''),
  },
  {
    name: 'margin',
    title: t`Margin`,
    num: true,
    by: (q) => q.margin_bp ?? -1e9,
    text: (q) => (q.data_fault ? t`no cost` : q.margin_bp === undefined ? '' : showShare(q.margin_bp)),
    cell: (q) => (q.data_fault ? <Fault>{t`no cost`}</Fault> : q.margin_bp !== undefined && showShare(q.margin_bp)),
    beside: (q) => (q.data_fault ? 24 : 0),
  },
  { name: 'state', title: t`State`, by: (q) => q.state, text: (q) => q.state, cell: (q) => <QuoteState q={q} />, beside: 40 },
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
      aside={grid.beside.row ? <QuoteAside number={grid.beside.row.number} /> : <p className="text-mute">{t`Select a row.`}</p>}
    >
      <PageHead title={t`Quotes`} sub={quotes.data && plural(quotes.data.length, 'quote')}>
        <Choice
          name="state"
          options={[
            ['', t`All`],
            ['open', t`Can be accepted`],
            ['to approve', t`To approve`],
            ['expired', t`Expired`],
            ['accepted', t`Accepted`],
          ]}
        />
        <Find label={t`Number, customer, item…`} />
        <More grid={grid} />
      </PageHead>
      <Load of={quotes}>
        {() => (
          <DataGrid
            grid={grid}
            label={t`Quotes`}
            open={(q) => void go({ to: '/quotes/$number', params: { number: q.number } })}
            opens={t`Open the quote`}
            empty={
              <Empty title={s.q || s.state ? t`No quote fits this.` : t`There is no quote yet.`}>
                <Trans>
                  A new order can be kept as a quote instead.{' '}
                  <Link to="/entry" className="ref">
                    Begin one
                  </Link>
                </Trans>
              </Empty>
            }
          />
        )}
      </Load>
    </Page>
  );
}

const none: Quote[] = [];
