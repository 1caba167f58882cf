import { t } from '@lingui/core/macro';
import { Link, useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { shipRules } from '../../parts/asides';
import { Holds, PageHead, Tier } from '../../parts/bits';
import { showMoney, showNum, showSum } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { JourneyBar, tellCounts } from '../../parts/JourneyBar';
import { Find } from '../../parts/list';
import { Empty } from '../../parts/states';

type Customer = Schemas['CustomerRow'];

const columns: GridColumn<Customer>[] = [
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (c) => String(c.tier), cell: (c) => <Tier n={c.tier} /> },
  {
    name: 'code',
    title: t`Code`,
    kind: 'text',
    text: (c) => c.code,
    beside: 8,
    cell: (c) => (
      <Link to="/customers/$number" params={{ number: c.code }} className="ref">
        {c.code}
      </Link>
    ),
  },
  { name: 'name', title: t`Name`, kind: 'text', cut: true, text: (c) => c.name },
  {
    name: 'rule',
    title: t`Ship rule`,
    kind: 'text',
    group: true,
    text: (c) => shipRules[c.ship_rule] ?? c.ship_rule,
    cell: (c) => <span className="text-mute">{shipRules[c.ship_rule]}</span>,
  },
  { name: 'service', title: t`Service`, kind: 'text', group: true, text: (c) => c.service },
  { name: 'warehouse', title: t`Warehouse`, kind: 'text', group: true, text: (c) => c.warehouse },
  { name: 'terms', title: t`Freight terms`, kind: 'text', group: true, aside: true, text: (c) => c.terms },
  {
    name: 'hold',
    title: t`Hold`,
    kind: 'text',
    group: true,
    text: (c) => c.hold,
    cell: (c) => <Holds of={c.hold ? [c.hold] : []} brief />,
    beside: (c) => (c.hold ? 24 : 0),
  },
  { name: 'orders', title: t`Orders`, kind: 'number', num: true, text: (c) => showNum(c.orders), sum: showNum },
  {
    name: 'unfinished',
    title: t`Unfinished`,
    kind: 'number',
    num: true,
    text: (c) => (c.open_orders > 0 ? showNum(c.open_orders) : ''),
    sum: showNum,
  },
  {
    name: 'value',
    title: t`Value`,
    kind: 'money',
    num: true,
    text: (c) => showMoney(c.value_minor, c.currency),
    sum: showSum,
  },
  {
    name: 'progress',
    title: t`Progress`,
    width: 120,
    grows: true,
    text: (c) => tellCounts(c.at),
    cell: (c) => <JourneyBar at={c.at} width="100%" of={c.name} />,
    file: ['ordered', 'open', 'promised', 'allocated', 'released', 'picked', 'packed', 'shipped', 'delivered', 'dropped'],
  },
];

const codeOf = (c: Customer) => c.code;

export function CustomersPage() {
  const grid = useGrid<Customer>({
    list: 'customers',
    one: 'customer',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/customers', { params: { query: q }, signal }));
      return { rows: d.customers, next: d.next };
    },
    columns,
    idOf: codeOf,
  });
  const go = useNavigate();
  return (
    <Page fill>
      <PageHead title={t`Customers`} sub={<Found grid={grid} />}>
        <GroupBy grid={grid} />
        <Find label={t`Part of a code or name…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Customers`}
        open={(c) => void go({ to: '/customers/$number', params: { number: c.code } })}
        opens={t`Open the customer`}
        empty={<Empty title={t`No customer fits this.`}>{t`Look for part of a code or part of a name.`}</Empty>}
      />
    </Page>
  );
}
