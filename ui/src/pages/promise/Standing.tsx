import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showDay, showNum } from '../../base/format';
import { useKey } from '../../base/keys/useKey';
import { questions } from '../../base/questions';
import { say } from '../../base/say';
import { ItemAside, OrderAside } from '../../parts/asides';
import { ItemLink, OrderLink, PageHead, Tier } from '../../parts/bits';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Find, found, useList } from '../../parts/list';
import { Page } from '../../parts/Page';
import { Empty } from '../../parts/states';
import { Sentence } from './Sentence';

type Promised = Schemas['PromisedRow'];

const leaves = (p: Promised) => (p.past ? t`${showDay(p.day)} · passed` : p.late ? t`${showDay(p.day)} · late` : showDay(p.day));

const columns: GridColumn<Promised>[] = [
  {
    name: 'day',
    title: t`Leaves`,
    kind: 'date',
    group: true,
    text: leaves,
    cell: (p) => (p.past || p.late ? <span className="late">{leaves(p)}</span> : showDay(p.day)),
  },
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (p) => String(p.tier), cell: (p) => <Tier n={p.tier} /> },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    group: true,
    beside: 8,
    text: (p) => p.order,
    cell: (p) => <OrderLink number={p.order} />,
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (p) => p.customer },
  {
    name: 'item',
    title: t`Item`,
    kind: 'text',
    group: true,
    cut: true,
    text: (p) => `${p.sku} ${p.item}`,
    cell: (p) => (
      <>
        <ItemLink sku={p.sku} /> <span className="text-mute">{p.item}</span>
      </>
    ),
  },
  { name: 'qty', title: t`Promised`, kind: 'number', num: true, text: (p) => showNum(p.qty), sum: showNum },
  { name: 'warehouse', title: t`Warehouse`, kind: 'text', group: true, text: (p) => p.warehouse },
  { name: 'ship_by', title: t`Ship by`, kind: 'date', group: true, aside: true, text: (p) => showDay(p.ship_by) },
  { name: 'late', title: t`Days late`, kind: 'number', num: true, group: true, aside: true, text: (p) => showNum(p.late_days) },
  {
    name: 'rests',
    title: t`Rests on`,
    cut: true,
    text: (p) => say(p.rests),
    cell: (p) => (p.shaky ? <span className="late">{say(p.rests)}</span> : say(p.rests)),
    file: [],
  },
];

const idOf = (p: Promised) => String(p.id);

/** Every promise that stands, the earliest day first, and what it rests on. */
export function Standing() {
  const [, set] = useList();
  const go = useNavigate();
  const grid = useGrid<Promised>({
    list: 'promises',
    one: 'promise',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/promised', { params: { query: q }, signal }));
      return { rows: d.promises, next: d.next };
    },
    columns,
    idOf,
  });
  const without = useQuery(questions.unpromised()).data;
  const row = grid.row;
  useKey(
    'o',
    t`Outlook of the item in focus`,
    () => row && set({ sku: row.sku, qty: String(row.qty), line: String(row.line_id) }),
    { enabled: row !== undefined },
  );
  const beside = grid.beside.row;
  const sum = grid.sum.data;
  const q = grid.search.q;
  return (
    <Page
      fill
      aside={
        beside ? (
          <>
            <ItemAside sku={beside.sku} warehouse={beside.warehouse} />
            <OrderAside number={beside.order} except={beside.line_id} />
          </>
        ) : (
          <p className="text-mute">{t`Select a row.`}</p>
        )
      }
    >
      <Sentence />
      <PageHead
        title={t`Promises that stand`}
        sub={
          sum &&
          without !== undefined && (
            <Trans>
              {found({ total: sum.rows, more: sum.more }, 'promise')};{' '}
              <Link to="/open" className="ref">
                {plural(without, 'open line')}
              </Link>{' '}
              have none
            </Trans>
          )
        }
      >
        <GroupBy grid={grid} />
        <Find label={t`Order, customer, item…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Promises that stand`}
        open={(p) => void go({ to: '/orders/$number', params: { number: p.order } })}
        opens={t`Open the order`}
        empty={
          <Empty title={q ? t`No promise has “${q}”.` : t`Nothing is promised that is not allocated already.`}>
            {t`Ask above what can be promised, or promise the rest of an order from its page.`}
          </Empty>
        }
      />
    </Page>
  );
}
