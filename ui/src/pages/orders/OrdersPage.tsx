import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { OrderAside } from '../../parts/asides';
import { Day, Facts, Fault, Holds, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showMoney, showNum, showSum } from '../../base/format';
import { Changed } from '../../parts/grid/Changed';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid, type Grid, type Group } from '../../parts/grid/useGrid';
import { tellCounts, JourneyBar, stations } from '../../parts/JourneyBar';
import { Find, useList } from '../../parts/list';
import { Empty } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { narrowed, narrowOf, scopeOf, States } from './filters';

type Order = Schemas['OrderRow'];

const at = (name: keyof Order['at'], title: string): GridColumn<Order> => ({
  name,
  title,
  kind: 'number',
  num: true,
  aside: true,
  text: (o) => showNum(o.at[name]),
  sum: showNum,
});

const columns: GridColumn<Order>[] = [
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (o) => String(o.tier), cell: (o) => <Tier n={o.tier} /> },
  {
    name: 'wanted',
    title: t`Requested`,
    kind: 'date',
    group: true,
    text: (o) => showDay(o.wanted) + (o.late ? ' · late' : ''),
    cell: (o) => <Day iso={o.wanted} late={o.late} />,
    beside: 6,
  },
  {
    name: 'number',
    title: t`Order`,
    kind: 'text',
    text: (o) => o.number,
    cell: (o) => <OrderLink number={o.number} />,
    beside: 8,
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (o) => o.customer },
  {
    name: 'channel',
    title: t`Channel`,
    kind: 'text',
    group: true,
    text: (o) => o.channel,
    cell: (o) => <span className="text-mute">{o.channel}</span>,
  },
  { name: 'value', title: t`Value`, kind: 'money', num: true, text: (o) => showMoney(o.value_minor, o.currency), sum: showSum },
  {
    name: 'margin',
    title: t`Margin`,
    kind: 'share',
    num: true,
    text: (o) => (o.margin_bp === undefined ? '–' : `${Math.round(o.margin_bp / 100)} %`),
    cell: (o) => <Margin of={o} />,
    beside: (o) => (o.data_fault ? 20 : 0),
  },
  {
    name: 'ready',
    title: t`Ready`,
    num: true,
    text: (o) => (o.open_lines > 0 ? `${o.ready}/${o.open_lines}` : ''),
    hint: t`Open lines that could go in full now, of its open lines`,
  },
  {
    name: 'progress',
    title: t`Progress`,
    text: (o) => tellCounts(o.at),
    width: 98,
    grows: true,
    cell: (o) => <JourneyBar at={o.at} width="100%" of={o.number} />,
    file: ['ordered', 'open', 'promised', 'allocated', 'released', 'picked', 'packed', 'shipped', 'delivered', 'dropped'],
  },
  {
    name: 'holds',
    title: t`Hold`,
    text: (o) => o.holds.join(', '),
    cell: (o) => <Holds of={o.holds} brief />,
    beside: (o) => (o.holds.length ? 24 : 0),
  },
  { name: 'rule', title: t`Ship rule`, kind: 'text', group: true, aside: true, text: (o) => o.ship_rule },
  { name: 'currency', title: t`Currency`, kind: 'text', group: true, aside: true, text: (o) => o.currency },
  { name: 'ref', title: t`Customer’s number`, kind: 'text', aside: true, cut: true, text: (o) => o.customer_ref },
  at('ordered', t`Ordered`),
  at('open', t`Open`),
  at('promised', t`Promised`),
  at('allocated', t`Allocated`),
  at('released', t`Released`),
  at('picked', t`Picked`),
  at('packed', t`Packed`),
  at('shipped', t`Shipped`),
  at('delivered', t`Delivered`),
  at('dropped', t`Dropped`),
];

const totals = ['value', 'currency'];
const adds = ['open', 'allocated'];

const numberOf = (o: Order) => o.number;
const versionOf = (o: Order) => o.version;

export function OrdersPage() {
  const [s, set] = useList();
  const grid = useGrid<Order>({
    list: 'orders',
    one: 'order',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/orders', { params: { query: q }, signal }));
      return { rows: d.orders, next: d.next };
    },
    columns,
    idOf: numberOf,
    versionOf,
    scope: scopeOf(s),
    narrow: narrowOf(s),
    totals,
    adds,
  });
  const go = useNavigate();
  return (
    <Page
      fill
      aside={
        grid.beside.row ? (
          <OrderAside number={grid.beside.row.number} />
        ) : grid.beside.group ? (
          <GroupAside by={grid.by?.name ?? ''} of={grid.beside.group} />
        ) : (
          <p className="text-mute">{t`Select a row.`}</p>
        )
      }
      tray={grid.choice.size > 0 && <OrdersTray grid={grid} />}
    >
      <PageHead
        title={t`Orders`}
        sub={
          <Found
            grid={grid}
            also={(sums) =>
              ` · ${showSum(sums.value ?? 0)}` +
              (sums.currency ? t`, ${plural(sums.currency, 'order')} in other currencies left out` : '')
            }
          />
        }
      >
        <States />
        <GroupBy grid={grid} />
        <Find label={t`Number, customer, item…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid}>{narrowed(s, set)}</Chips>
      <DataGrid
        grid={grid}
        label={t`Orders`}
        open={(o) => void go({ to: '/orders/$number', params: { number: o.number } })}
        opens={t`Open the order`}
        groupName={(by, g) => <GroupName by={by} of={g} />}
        groupBar={(g) => <JourneyBar at={countsIn(g)} width={160} of={g.name ?? g.value} />}
        empty={
          <Empty title={s.state === 'all' ? t`No order fits this.` : t`No order of this kind fits.`}>
            {s.state === 'all' ? (
              t`Take a filter away, or look for part of a number, a customer or an item.`
            ) : (
              <button className="btn btn-sm" onClick={() => set({ state: 'all' })}>
                {t`Look in all orders`}
              </button>
            )}
          </Empty>
        }
      />
    </Page>
  );
}

function GroupName({ by, of: g }: { by: string; of: Group }) {
  if (by === 'tier') return <Tier n={Number(g.value)} />;
  if (by === 'wanted') return showDay(g.value);
  return g.name || g.value || t`no ${by}`;
}

/** What the orders of a group come to, by station. */
const countsIn = (g: Group): Order['at'] =>
  ({ promised: 0, ordered: 0, ...Object.fromEntries(stations.map((st) => [st, 0])), ...g.sums }) as Order['at'];

function GroupAside({ by, of: g }: { by: string; of: Group }) {
  const counts = countsIn(g);
  return (
    <section>
      <h2 className="mb-1 text-lead">
        <GroupName by={by} of={g} />
      </h2>
      <p className="mb-2 text-mute">{plural(g.rows, 'order')}</p>
      <Facts
        rows={[
          [t`Ordered`, showNum(counts.ordered)],
          ...stations
            .filter((st) => counts[st] > 0)
            .map((st): [string, string] => [st[0]?.toUpperCase() + st.slice(1), showNum(counts[st])]),
          [t`Of the open units promised`, showNum(counts.promised)],
        ]}
      />
    </section>
  );
}

function Margin({ of }: { of: Order }) {
  const percent = of.margin_bp === undefined ? '–' : `${Math.round(of.margin_bp / 100)} %`;
  return of.data_fault ? (
    <span title={of.data_fault}>
      <Fault>{percent}</Fault>
    </span>
  ) : (
    <>{percent}</>
  );
}

function OrdersTray({ grid }: { grid: Grid<Order> }) {
  const { choice, changed } = grid;
  const clear = choice.clear;
  const { may } = useSigned();
  const allocate = useCommand('/api/allocate', clear);
  const release = useCommand('/api/release', clear);
  const back = useCommand('/api/give-back', clear);
  const orders = [...choice.ids].map(([number, c]) => ({ number, seen: c.seen }));
  const open = choice.sum('open', (o) => o.at.open);
  const allocated = choice.sum('allocated', (o) => o.at.allocated);
  const go = useNavigate();
  const run = () => void go({ to: '/allocation', search: { order: [...choice.ids.keys()].join(','), listed: 'yes' } });
  return (
    <>
      <span>
        <Trans>
          <b>{plural(choice.size, 'order')}</b> in the order listed
        </Trans>
      </span>
      <span>
        <Trans>
          <b>{showNum(open)}</b> open
        </Trans>
      </span>
      <span>
        <Trans>
          <b>{showNum(allocated)}</b> allocated
        </Trans>
      </span>
      {changed.length > 0 && <Changed grid={grid} />}
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-2" onClick={clear}>
          {t`Choose none`} <Key>{t`Esc`}</Key>
        </button>
        {may('give back') && allocated > 0 && (
          <Act
            keys="b"
            does={t`Give back what is allocated`}
            look="quiet"
            off={back.busy || changed.length > 0}
            run={() => back.run({ ask: { orders } })}
          >
            {t`Give back`}
          </Act>
        )}
        {may('run a policy') && open > 0 && (
          <Act keys="p" does={t`Run a policy on the chosen orders`} look="quiet" run={run}>
            {t`Run a policy`}
          </Act>
        )}
        <Act
          keys="a"
          does={t`Allocate what is free, in the order listed`}
          why={may('allocate') ? '' : t`Allocating is for a coordinator.`}
          off={open === 0 || allocate.busy || changed.length > 0}
          run={() => allocate.run({ ask: { orders } })}
        >
          {t`Allocate what is free`}
        </Act>
        <Act
          keys="r"
          does={t`Release what is allocated`}
          why={may('release') ? '' : t`Releasing is for a coordinator.`}
          off={allocated === 0 || release.busy || changed.length > 0}
          run={() => release.run({ ask: { orders } })}
        >
          {t`Release`}
        </Act>
      </span>
    </>
  );
}
