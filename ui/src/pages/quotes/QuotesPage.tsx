import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link, useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { DocumentLink, Fault, PageHead, Tier } from '../../parts/bits';
import { showDay, showMoney, showNum, showShare, showSum, showTime } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { Empty } from '../../parts/states';
import { QuoteState } from '../../parts/QuoteState';
import { QuoteAside } from './QuoteAside';

type Quote = Schemas['QuoteRow'];

const columns: GridColumn<Quote>[] = [
  {
    name: 'number',
    title: t`Quote`,
    kind: 'text',
    text: (q) => q.number,
    cell: (q) => <DocumentLink kind="quote" number={q.number} />,
    beside: 8,
  },
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (q) => String(q.tier), cell: (q) => <Tier n={q.tier} /> },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (q) => q.customer },
  { name: 'wanted', title: t`Requested`, kind: 'date', group: true, text: (q) => showDay(q.wanted) },
  {
    name: 'expires',
    title: t`Valid until`,
    kind: 'date',
    group: true,
    text: (q) => showDay(q.expires),
    cell: (q) => (q.state === 'expired' ? <span className="late">{showDay(q.expires)}</span> : showDay(q.expires)),
    beside: 6,
  },
  { name: 'lines', title: t`Lines`, kind: 'number', num: true, text: (q) => showNum(q.lines), sum: showNum },
  { name: 'value', title: t`Value`, kind: 'money', num: true, text: (q) => showMoney(q.value_minor, q.currency), sum: showSum },
  {
    name: 'accepted',
    title: t`Accepted`,
    kind: 'money',
    num: true,
    text: (q) => (q.accepted_minor > 0 ? showMoney(q.accepted_minor, q.currency) : ''),
    sum: showSum,
  },
  {
    name: 'margin',
    title: t`Margin`,
    kind: 'share',
    num: true,
    text: (q) => (q.data_fault ? t`no cost` : q.margin_bp === undefined ? '' : showShare(q.margin_bp)),
    cell: (q) => (q.data_fault ? <Fault>{t`no cost`}</Fault> : q.margin_bp !== undefined && showShare(q.margin_bp)),
    beside: (q) => (q.data_fault ? 24 : 0),
  },
  {
    name: 'state',
    title: t`State`,
    kind: 'text',
    group: true,
    text: (q) => q.state,
    cell: (q) => <QuoteState q={q} />,
    beside: 40,
  },
  { name: 'who', title: t`Made by`, kind: 'text', group: true, cut: true, aside: true, text: (q) => q.made_by },
  { name: 'made', title: t`Made`, kind: 'moment', aside: true, text: (q) => showTime(q.made_at) },
];

const numberOf = (q: Quote) => q.number;

export function QuotesPage() {
  const { q, state } = useList()[0];
  const grid = useGrid<Quote>({
    list: 'quotes',
    one: 'quote',
    fetch: async (query, signal) => {
      const d = await ask(client.GET('/api/quotes', { params: { query }, signal }));
      return { rows: d.quotes, next: d.next };
    },
    columns,
    idOf: numberOf,
    scope: { state },
  });
  const go = useNavigate();
  return (
    <Page
      fill
      aside={grid.beside.row ? <QuoteAside number={grid.beside.row.number} /> : <p className="text-mute">{t`Select a row.`}</p>}
    >
      <PageHead title={t`Quotes`} sub={<Found grid={grid} />}>
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
        <GroupBy grid={grid} />
        <Find label={t`Number, customer…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Quotes`}
        open={(q) => void go({ to: '/quotes/$number', params: { number: q.number } })}
        opens={t`Open the quote`}
        empty={
          <Empty title={q || state || grid.search.only ? t`No quote fits this.` : t`There is no quote yet.`}>
            <Trans>
              A new order can be kept as a quote instead.{' '}
              <Link to="/entry" className="ref">
                Begin one
              </Link>
            </Trans>
          </Empty>
        }
      />
    </Page>
  );
}
