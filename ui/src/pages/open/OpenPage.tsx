import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useMemo } from 'react';
import { useNavigate } from '@tanstack/react-router';
import { ask, client, type LineView } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { can, ItemAside, OrderAside } from '../../parts/asides';
import { Day, ItemLink, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { showDay, showNum } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { JourneyBar, tellCounts } from '../../parts/JourneyBar';
import { Find, found } from '../../parts/list';
import { Empty } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { WhyAside } from '../../parts/Why';

const facts: GridColumn<LineView>[] = [
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (l) => String(l.tier), cell: (l) => <Tier n={l.tier} /> },
  {
    name: 'ship_by',
    title: t`Ship by`,
    kind: 'date',
    group: true,
    text: (l) => showDay(l.ship_by) + (l.late ? ' · late' : ''),
    cell: (l) => <Day iso={l.ship_by} late={l.late} />,
    beside: 6,
  },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    group: true,
    text: (l) => l.order,
    cell: (l) => <OrderLink number={l.order} />,
    beside: 8,
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (l) => l.customer },
  {
    name: 'item',
    title: t`Item`,
    kind: 'text',
    group: true,
    cut: true,
    text: (l) => `${l.sku} ${l.item}`,
    cell: (l) => (
      <>
        <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
      </>
    ),
    beside: 8,
  },
  { name: 'open', title: t`Open`, kind: 'number', num: true, text: (l) => showNum(l.at.open), sum: showNum },
  {
    name: 'free',
    title: t`Free at`,
    kind: 'number',
    num: true,
    text: (l) => `${showNum(l.free)} ${l.warehouse}${l.elsewhere > 0 ? ` +${showNum(l.elsewhere)}` : ''}`,
    cell: (l) => (
      <>
        {showNum(l.free)} <span className="text-mute">{l.warehouse}</span>
        {l.elsewhere > 0 && (
          <span className="text-mute" title={t`free in other warehouses`}>
            {' '}
            +{showNum(l.elsewhere)}
          </span>
        )}
      </>
    ),
    hint: t`Free at the line’s warehouse, and in others`,
    file: ['free', 'warehouse'],
  },
  {
    name: 'next',
    title: t`Next arrival`,
    cut: true,
    text: (l) =>
      l.next ? showDay(l.next.due) + (l.next.overdue ? ' · overdue' : '') : l.at.open > l.free ? t`no supply due` : '',
    cell: (l) =>
      l.next ? (
        <span className={l.next.overdue ? 'late' : ''}>
          {showDay(l.next.due)}
          {l.next.overdue && ' · overdue'}
        </span>
      ) : (
        l.at.open > l.free && <span className="text-mute">{t`no supply due`}</span>
      ),
  },
  {
    name: 'units',
    title: t`Units`,
    width: 56,
    grows: true,
    text: (l) => tellCounts(l.at),
    cell: (l) => <JourneyBar at={l.at} width="100%" of={`${l.order} line ${l.line}`} />,
    file: ['ordered', 'open', 'promised'],
  },
  { name: 'warehouse', title: t`Warehouse`, kind: 'text', group: true, aside: true, text: (l) => l.warehouse },
];

/** All that is free for the line. */
const give = (l: LineView) => ({ ask: { lines: [{ line: l.id, qty: can(l, 'allocate').qty, seen: l.version }] } });

const idOf = (l: LineView) => String(l.id);

/** Lines with open units: what free stock can help first, then what waits for an arrival. */
export function OpenPage() {
  const { may } = useSigned();
  const mine = may('allocate');
  const { run: allocate, busy } = useCommand('/api/allocate');
  const columns = useMemo<GridColumn<LineView>[]>(
    () => [
      ...facts,
      {
        name: 'give',
        title: '',
        width: 122,
        text: () => '',
        hint: t`Allocate`,
        focusCell: (l, focused) => {
          const { qty } = can(l, 'allocate');
          return (
            qty > 0 && (
              <button className="btn btn-xs btn-pill" disabled={!mine || busy} onClick={() => allocate(give(l))}>
                <Trans>Allocate {showNum(qty)}</Trans> {focused && <Key>A</Key>}
              </button>
            )
          );
        },
      },
    ],
    [mine, busy, allocate],
  );
  const grid = useGrid<LineView>({
    list: 'open',
    one: 'line',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/open', { params: { query: q }, signal }));
      return { rows: d.lines, next: d.next };
    },
    columns,
    idOf,
  });
  const go = useNavigate();
  useKey('a', t`Allocate what is free to the line`, () => grid.row && allocate(give(grid.row)), {
    enabled: mine && grid.row !== undefined && can(grid.row, 'allocate').qty > 0,
  });
  const beside = grid.beside.row;
  const s = grid.search;
  const sum = grid.sum.data;
  return (
    <Page
      fill
      aside={
        beside ? (
          <>
            {!mine && can(beside, 'allocate').qty > 0 && (
              <p className="mb-3 text-mute">{t`Free stock could help this line; allocating is for a coordinator.`}</p>
            )}
            <ItemAside sku={beside.sku} warehouse={beside.warehouse} />
            <WhyAside line={beside.id} />
            <OrderAside number={beside.order} except={beside.id} />
          </>
        ) : (
          <p className="text-mute">{t`Select a row.`}</p>
        )
      }
    >
      <PageHead
        title={t`Open`}
        sub={
          sum &&
          t`${found({ total: sum.rows, more: sum.more }, 'line')} still want stock; those that can be helped now come first`
        }
      >
        <GroupBy grid={grid} />
        <Find label={t`Order, customer, item…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Open lines`}
        open={(l) => void go({ to: '/orders/$number', params: { number: l.order } })}
        opens={t`Open the order`}
        empty={
          <Empty
            title={
              s.q ? t`No open line has “${s.q}”.` : t`No line is open: everything that was ordered is allocated or further on.`
            }
          >
            {t`New lines appear here as orders come in.`}
          </Empty>
        }
      />
    </Page>
  );
}
