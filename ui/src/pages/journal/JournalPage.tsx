import { t } from '@lingui/core/macro';
import { Link, useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { showNum, showTime } from '../../base/format';
import { ItemAside, OrderAside } from '../../parts/asides';
import { DocumentLink, ItemLink, OrderLink, PageHead } from '../../parts/bits';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { Page } from '../../parts/Page';
import { Empty } from '../../parts/states';

type Move = Schemas['JournalRow'];

/** What was done, as people say it. */
const moves: Record<string, string> = {
  enter: t`ordered`,
  reduce: t`ordered fewer`,
  allocate: t`allocated`,
  'give back': t`given back`,
  release: t`released`,
  recall: t`recalled`,
  pick: t`picked`,
  short: t`not found`,
  pack: t`packed`,
  unpack: t`unpacked`,
  'put back': t`put back`,
  dispatch: t`dispatched`,
  void: t`dispatch undone`,
  deliver: t`delivered`,
  lose: t`lost on the way`,
  drop: t`dropped`,
  reopen: t`reopened`,
  receive: t`received`,
  gain: t`counted more`,
  loss: t`counted fewer`,
  'set aside': t`held`,
  'make good': t`made good`,
  'bin out': t`taken from a bin`,
  'bin in': t`put into a bin`,
};
const moved = (kind: string) => moves[kind] ?? kind;
const fromTo = (m: Move) => (m.from === m.to ? '' : `${m.from} → ${m.to}`);
const said = (m: Move) => (m.cause ? `${moved(m.move)}: ${m.cause}` : moved(m.move));

const columns: GridColumn<Move>[] = [
  { name: 'at', title: t`When`, kind: 'moment', text: (m) => showTime(m.at) },
  { name: 'who', title: t`Who`, kind: 'text', group: true, cut: true, text: (m) => m.who },
  {
    name: 'move',
    title: t`What`,
    kind: 'text',
    group: t`what was done`,
    named: moved,
    text: said,
    cell: (m) => <span className={m.undone ? 'text-mute line-through' : ''}>{said(m)}</span>,
  },
  { name: 'qty', title: t`Units`, kind: 'number', num: true, text: (m) => showNum(m.qty), sum: showNum },
  {
    name: 'item',
    title: t`Item`,
    kind: 'text',
    group: true,
    cut: true,
    text: (m) => `${m.sku} ${m.item}`,
    cell: (m) => (
      <>
        <ItemLink sku={m.sku} /> <span className="text-mute">{m.item}</span>
      </>
    ),
  },
  { name: 'from', title: t`From → to`, kind: 'text', group: t`where from`, text: fromTo, file: ['from', 'to'] },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    group: true,
    beside: 8,
    text: (m) => (m.order ? `${m.order} ${m.line ?? ''}` : ''),
    cell: (m) =>
      m.order && (
        <>
          <OrderLink number={m.order} /> <span className="text-mute">{m.line}</span>
        </>
      ),
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, aside: true, text: (m) => m.customer ?? '' },
  { name: 'warehouse', title: t`At`, kind: 'text', group: t`warehouse`, hint: t`Warehouse`, text: (m) => m.warehouse ?? '' },
  {
    name: 'document',
    title: t`Document`,
    kind: 'text',
    group: true,
    beside: 8,
    text: (m) => m.document ?? '',
    cell: (m) =>
      m.document &&
      (m.document_kind === 'receipt' ? (
        <Link to="/inbound" search={{ q: m.document, state: 'all' }} className="ref">
          {m.document}
        </Link>
      ) : (
        <DocumentLink kind={m.document_kind ?? ''} number={m.document} />
      )),
  },
  { name: 'line', title: t`Line`, kind: 'number', num: true, aside: true, text: (m) => (m.line ? String(m.line) : '') },
  ...(
    [
      ['list', t`Pick list`, 'pick list'],
      ['shipment', t`Shipment`, 'shipment'],
      ['receipt', t`Receipt`, 'receipt'],
    ] as const
  ).map(([name, title, kind]): GridColumn<Move> => ({
    name,
    title,
    kind: 'text',
    group: true,
    aside: true,
    text: (m) => (m.document_kind === kind ? (m.document ?? '') : ''),
  })),
  { name: 'bin', title: t`Bin`, kind: 'text', aside: true, text: (m) => m.bin ?? '' },
  { name: 'to', title: t`To`, kind: 'text', group: true, aside: true, text: (m) => m.to },
  { name: 'cause', title: t`Cause`, kind: 'text', group: true, aside: true, text: (m) => m.cause ?? '' },
  { name: 'command', title: t`Command`, kind: 'text', group: true, aside: true, text: (m) => m.command },
  { name: 'reason', title: t`Reason`, kind: 'text', cut: true, text: (m) => m.reason ?? '' },
];

const idOf = (m: Move) => String(m.id);

/** Every move of units and every stock entry, the latest first: who, when, why, and by which document. */
export function JournalPage() {
  const { state } = useList()[0];
  const go = useNavigate();
  const grid = useGrid<Move>({
    list: 'journal',
    one: 'entry',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/journal', { params: { query: q }, signal }));
      return { rows: d.moves, next: d.next };
    },
    columns,
    idOf,
    scope: { state },
  });
  const beside = grid.beside.row;
  return (
    <Page
      fill
      aside={
        beside ? (
          <>
            <ItemAside sku={beside.sku} warehouse={beside.warehouse} />
            {beside.order && <OrderAside number={beside.order} />}
          </>
        ) : (
          <p className="text-mute">{t`Select a row.`}</p>
        )
      }
    >
      <PageHead title={t`Journal`} sub={<Found grid={grid} />}>
        <Choice
          name="state"
          options={[
            ['today', t`Today`],
            ['', t`Seven days`],
            ['month', t`Thirty days`],
            ['all', t`All`],
          ]}
        />
        <GroupBy grid={grid} />
        <Find label={t`Order, customer, item…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Journal`}
        open={(m) =>
          void (m.order
            ? go({ to: '/orders/$number', params: { number: m.order } })
            : go({ to: '/items/$number', params: { number: m.sku } }))
        }
        opens={t`Open the order, or the item`}
        empty={<Empty title={t`Nothing that was done fits this.`}>{t`Choose a longer time, or take a filter away.`}</Empty>}
      />
    </Page>
  );
}
