import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link, useNavigate } from '@tanstack/react-router';
import { useEffect } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showDay, showKg, showMoney, showNum, showSum, showTime } from '../../base/format';
import { say } from '../../base/say';
import { useSigned } from '../../base/session';
import { Act } from '../../parts/Act';
import { Asking } from '../../parts/Asking';
import { Day, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { Changed } from '../../parts/grid/Changed';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid, type Grid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { Page } from '../../parts/Page';
import { Empty } from '../../parts/states';
import { ScanBox } from '../../parts/ScanBox';
import { useCommand } from '../../parts/useCommand';

type Shipment = Schemas['ShipmentView'];

const tier: GridColumn<Shipment> = {
  name: 'tier',
  title: t`Tier`,
  kind: 'number',
  group: true,
  text: (x) => String(x.tier),
  cell: (x) => <Tier n={x.tier} />,
};
const shipBy: GridColumn<Shipment> = {
  name: 'ship_by',
  title: t`Ship by`,
  kind: 'date',
  group: true,
  text: (x) => showDay(x.ship_by) + (overdue(x) ? ' · late' : ''),
  cell: (x) => <Day iso={x.ship_by} late={overdue(x)} />,
  beside: 6,
};
const expected: GridColumn<Shipment> = {
  name: 'expected',
  title: t`Expected`,
  kind: 'date',
  group: true,
  text: (x) => (missed(x) ? t`${showDay(x.expected ?? '')} · overdue` : showDay(x.expected ?? '')),
  cell: (x) =>
    missed(x) ? <span className="late">{t`${showDay(x.expected ?? '')} · overdue`}</span> : showDay(x.expected ?? ''),
};

/** What every list of shipments shows. */
const facts: GridColumn<Shipment>[] = [
  {
    name: 'number',
    title: t`Shipment`,
    kind: 'text',
    beside: 8,
    text: (x) => x.number,
    cell: (x) => (
      <Link to="/shipments/$number" params={{ number: x.number }} className="ref">
        {x.number}
      </Link>
    ),
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (x) => x.customer },
  {
    name: 'ship_to',
    title: t`Ship to`,
    kind: 'text',
    group: true,
    cut: true,
    aside: 'small',
    text: (x) => `${x.ship_to.city} ${x.ship_to.postcode}`,
  },
  { name: 'service', title: t`Service`, kind: 'text', group: true, aside: 'small', text: (x) => x.service },
  { name: 'warehouse', title: t`At`, kind: 'text', group: t`warehouse`, text: (x) => x.warehouse, hint: t`Warehouse` },
  {
    name: 'orders',
    title: t`Orders`,
    kind: 'text',
    beside: 10,
    text: (x) => (x.orders.length > 1 ? `${x.orders[0] ?? ''} +${x.orders.length - 1}` : (x.orders[0] ?? '')),
    cell: (x) => (
      <span title={x.orders.join(', ')}>
        <OrderLink number={x.orders[0] ?? ''} />
        {x.orders.length > 1 && <span className="text-mute"> +{x.orders.length - 1}</span>}
      </span>
    ),
  },
  {
    name: 'packages',
    title: t`Packages`,
    kind: 'number',
    num: true,
    aside: 'small',
    text: (x) => showNum(x.packages),
    sum: showNum,
  },
  { name: 'weight', title: t`Weight`, kind: 'weight', num: true, aside: 'small', text: (x) => showKg(x.weight_g), sum: showKg },
  { name: 'units', title: t`Units`, kind: 'number', num: true, aside: true, text: (x) => showNum(x.units), sum: showNum },
  {
    name: 'value',
    title: t`Value`,
    kind: 'money',
    num: true,
    aside: true,
    text: (x) => (x.currency ? showMoney(x.value_minor, x.currency) : t`several currencies`),
    sum: showSum,
  },
  { name: 'country', title: t`Country`, kind: 'text', group: true, aside: true, text: (x) => x.ship_to.country },
];

/** What is in its way, or who has it. */
const how: GridColumn<Shipment> = {
  name: 'tracking',
  title: t`Tracking`,
  kind: 'text',
  cut: true,
  text: tell,
  cell: (x) => <How x={x} />,
};
const carrier: GridColumn<Shipment> = {
  name: 'carrier',
  title: t`Carrier`,
  kind: 'text',
  group: true,
  aside: true,
  text: (x) => x.carrier,
};
const dispatched: GridColumn<Shipment> = {
  name: 'dispatched',
  title: t`Dispatched`,
  kind: 'moment',
  aside: true,
  text: (x) => (x.dispatched ? showTime(x.dispatched) : ''),
};
const delivered: GridColumn<Shipment> = {
  name: 'delivered',
  title: t`Delivered`,
  kind: 'moment',
  text: (x) => (x.delivered ? showTime(x.delivered) : ''),
};
const state: GridColumn<Shipment> = {
  name: 'state',
  title: t`State`,
  kind: 'text',
  group: true,
  named: (value) => states[value as Shipment['state']],
  text: (x) => states[x.state],
};
const states: Record<Shipment['state'], string> = {
  packed: t`packed`,
  asking: t`the carrier is asked`,
  'under way': t`under way`,
  delivered: t`delivered`,
};

const overdue = (x: Shipment) => x.late && !x.dispatched;
const missed = (x: Shipment) => x.late && x.dispatched !== undefined;

const sent = facts.map((c) => (c.name === 'packages' ? { ...c, aside: true } : c));

/** The columns of the list, by what it has. */
const columnsOf: Record<string, GridColumn<Shipment>[]> = {
  '': [tier, shipBy, ...facts, { ...how, name: 'waits', title: t`In its way`, kind: undefined, file: ['state'] }],
  'under way': [tier, expected, ...sent, how, carrier, dispatched],
  delivered: [tier, delivered, ...sent, how, carrier, dispatched, { ...expected, aside: true }],
  all: [tier, state, shipBy, ...sent, how, carrier, { ...expected, aside: true }, dispatched, { ...delivered, aside: true }],
};

const numberOf = (x: Shipment) => x.number;
/** It is dispatched with what was in it when it was seen. */
const unitsOf = (x: Shipment) => x.units;
const canGo = (x: Shipment) => x.state === 'packed' || x.state === 'under way';
const adds = ['packages', 'weight', 'units'];

/** Shipments at the dock, under way, and delivered. */
export function DockPage() {
  const show = useList()[0].state ?? '';
  const go = useNavigate();
  const grid = useGrid<Shipment>({
    list: 'shipments',
    one: 'shipment',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/shipments', { params: { query: q }, signal }));
      return { rows: d.shipments, next: d.next };
    },
    columns: columnsOf[show] ?? columnsOf.all ?? [],
    idOf: numberOf,
    versionOf: show === '' || show === 'under way' ? unitsOf : undefined,
    can: canGo,
    scope: { state: show },
    adds,
  });
  const { choice } = grid;
  // What is chosen is dispatched or delivered, by where it was chosen.
  useEffect(choice.clear, [show]); // eslint-disable-line react-hooks/exhaustive-deps
  return (
    <Page fill tray={choice.size > 0 && <DockTray grid={grid} leaving={show === ''} />}>
      <PageHead title={t`The dock`} sub={<Found grid={grid} />}>
        <Choice
          name="state"
          options={[
            ['', t`Packed`],
            ['under way', t`Under way`],
            ['delivered', t`Delivered`],
            ['all', t`All`],
          ]}
        />
        <GroupBy grid={grid} />
        <Find label={t`Order, customer…`} />
        <More grid={grid} />
      </PageHead>
      {show === '' && (
        <ScanBox
          label={t`Scan a package or a sheet`}
          found={(s) => grid.set({ q: s.shipment ?? s.orders[0] ?? s.code, row: s.shipment })}
        />
      )}
      <Chips grid={grid} />
      {show === 'under way' && (
        <p className="pb-2 text-mute">
          <Trans>
            The carrier here is a stand-in: it delivers by itself a while after it took a shipment, or at once if you choose
            shipments and press <Key>M</Key>.
          </Trans>
        </p>
      )}
      <DataGrid
        key={show}
        grid={grid}
        label={t`Shipments`}
        open={(x) => void go({ to: '/shipments/$number', params: { number: x.number } })}
        opens={t`Open the shipment`}
        empty={
          grid.search.q || grid.search.only ? (
            <Empty title={t`No shipment fits this.`}>{t`Take a filter away, or look in all shipments.`}</Empty>
          ) : (
            <Empty title={nothing[show] ?? t`There is no shipment yet.`}>
              {show === '' ? (
                <Trans>
                  Shipments come here when orders are{' '}
                  <Link to="/packing" className="ref">
                    packed
                  </Link>
                  .
                </Trans>
              ) : (
                t`Shipments come here when they are dispatched.`
              )}
            </Empty>
          )
        }
      />
    </Page>
  );
}

const nothing: Record<string, string> = {
  '': t`Nothing stands at the dock.`,
  'under way': t`Nothing is under way.`,
  delivered: t`Nothing has arrived yet.`,
};

function DockTray({ grid, leaving }: { grid: Grid<Shipment>; leaving: boolean }) {
  const { choice, changed } = grid;
  const { may } = useSigned();
  const dispatch = useCommand('/api/dispatch', choice.clear);
  const deliver = useCommand('/api/deliver', choice.clear);
  const chosen = [...choice.ids].map(([number, c]) => ({ number, seen: c.seen }));
  const run = () => (leaving ? dispatch.run({ ask: chosen }) : deliver.run({ ask: chosen }));
  const units = choice.sum('units', (x) => x.units);
  return (
    <>
      <span>
        <b>{plural(choice.size, 'shipment')}</b>
      </span>
      <span>
        <b>
          {plural(
            choice.sum('packages', (x) => x.packages),
            'package',
          )}
        </b>
      </span>
      <span>
        <b>{showKg(choice.sum('weight', (x) => x.weight_g))}</b>
      </span>
      {changed.length > 0 ? (
        <Changed grid={grid} />
      ) : (
        leaving && (
          <span className="max-[1119px]:hidden">
            <Trans>stock falls by {plural(units, 'unit')} when the carrier has taken them</Trans>
          </span>
        )
      )}
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-2" onClick={choice.clear}>
          {t`Choose none`} <Key>{t`Esc`}</Key>
        </button>
        <Act
          keys={leaving ? 'd' : 'm'}
          does={leaving ? t`Dispatch the chosen shipments` : t`Mark the chosen shipments delivered`}
          why={may(leaving ? 'dispatch' : 'deliver') ? '' : t`This is for the floor or a coordinator.`}
          off={dispatch.busy || deliver.busy || changed.length > 0}
          run={run}
        >
          {leaving ? t`Dispatch ${plural(choice.size, 'shipment')}` : t`Mark delivered`}
        </Act>
      </span>
    </>
  );
}

/** The same as How, as a text. */
function tell(x: Shipment): string {
  if (x.state === 'asking') return states.asking;
  if (x.tracking) return x.exception && !x.delivered ? `${x.tracking} ${x.exception}` : x.tracking;
  if (x.holds.length > 0) return t`${x.holds.join(', ')} hold`;
  return say(x.waits) || x.refused || '';
}

/** How far a shipment is, beside what the columns say. */
function How({ x }: { x: Shipment }) {
  if (x.state === 'asking') return <Asking of={x} />;
  if (x.tracking)
    return (
      <>
        {x.tracking}{' '}
        {x.exception && !x.delivered ? (
          <span className="late">{x.exception}</span>
        ) : (
          <span className="text-mute">{x.carrier}</span>
        )}
      </>
    );
  if (x.holds.length > 0)
    return (
      <span className="late">
        <Trans>{x.holds.join(', ')} hold</Trans>
      </span>
    );
  return <span className="late">{say(x.waits) || x.refused}</span>;
}
