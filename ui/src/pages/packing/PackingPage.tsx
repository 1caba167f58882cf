import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link, useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { Day, Holds, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showKg, showMoney, showNum, showSum } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { ScanBox, type Scanned } from '../../parts/ScanBox';
import { Find } from '../../parts/list';
import { Empty } from '../../parts/states';
import { shipRules } from '../../parts/asides';
import { Bench } from './Bench';

type Job = Schemas['PackingJob'];

const columns: GridColumn<Job>[] = [
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (j) => String(j.tier), cell: (j) => <Tier n={j.tier} /> },
  {
    name: 'ship_by',
    title: t`Ship by`,
    kind: 'date',
    group: true,
    text: (j) => showDay(j.ship_by) + (j.late ? ' · late' : ''),
    cell: (j) => <Day iso={j.ship_by} late={j.late} />,
    beside: 6,
  },
  { name: 'order', title: t`Order`, kind: 'text', beside: 12, text: (j) => j.order, cell: (j) => <b>{j.order}</b> },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (j) => j.customer },
  { name: 'warehouse', title: t`At`, kind: 'text', group: t`warehouse`, text: (j) => j.warehouse, hint: t`Warehouse` },
  { name: 'units', title: t`Units`, kind: 'number', num: true, text: (j) => showNum(j.units), sum: showNum },
  { name: 'weight', title: t`Weight`, kind: 'weight', num: true, text: (j) => showKg(j.weight_g), sum: showKg },
  {
    name: 'hold',
    title: t`Hold`,
    kind: 'text',
    group: true,
    text: (j) => j.holds.join(', '),
    cell: (j) => <Holds of={j.holds} brief />,
    beside: (j) => (j.holds.length ? 24 : 0),
  },
  { name: 'lines', title: t`Lines`, kind: 'number', num: true, aside: true, text: (j) => showNum(j.lines.length), sum: showNum },
  { name: 'service', title: t`Service`, kind: 'text', group: true, aside: true, text: (j) => j.service },
  {
    name: 'rule',
    title: t`Ship rule`,
    kind: 'text',
    group: true,
    aside: true,
    text: (j) => shipRules[j.ship_rule] ?? j.ship_rule,
  },
  {
    name: 'value',
    title: t`Value`,
    kind: 'money',
    num: true,
    aside: true,
    text: (j) => showMoney(j.value_minor, j.currency),
    sum: showSum,
  },
];

const idOf = (j: Job) => `${j.order} ${j.warehouse}`;

/** Orders with picked units, and the bench on which the one in focus is packed. */
export function PackingPage() {
  const go = useNavigate();
  const grid = useGrid<Job>({
    list: 'packing',
    one: 'order to pack',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/packing', { params: { query: q }, signal }));
      return { rows: d.jobs, next: d.next };
    },
    columns,
    idOf,
  });
  const job = grid.row;
  const [several, setSeveral] = useState<Scanned>();
  const show = (order: string) => {
    setSeveral(undefined);
    grid.set({ q: order, row: undefined });
  };
  const scanned = (s: Scanned) => {
    const [order, ...more] = s.orders;
    if (s.shipment) void go({ to: '/shipments/$number', params: { number: s.shipment } });
    else if (more.length > 0) setSeveral(s);
    else if (order) show(order);
  };
  return (
    <Page fill>
      <PageHead title={t`Picked: packing`} sub={<Found grid={grid} />}>
        <GroupBy grid={grid} />
        <Find label={t`Order, customer, item…`} />
        <Link to="/pack" className="btn btn-sm">
          {t`By scanning`}
        </Link>
        <More grid={grid} />
      </PageHead>
      <ScanBox label={t`Scan a sheet or an order`} found={scanned} />
      {several && (
        <p role="status" className="flex flex-wrap items-center gap-2 pb-2">
          <Trans>
            <b>{several.code}</b> has {plural(several.orders.length, 'order')}. Which one is packed?
          </Trans>
          {several.orders.map((o) => (
            <button key={o} className="btn btn-xs btn-pill" onClick={() => show(o)}>
              {o}
            </button>
          ))}
        </p>
      )}
      <Chips grid={grid} />
      <div className="flex min-h-0 flex-1 gap-6 max-[1119px]:flex-col max-[1119px]:gap-3">
        <div className="flex min-h-[200px] min-w-0 flex-1 flex-col max-[1119px]:order-last">
          <DataGrid
            grid={grid}
            label={t`Orders to pack`}
            open={(j) => void go({ to: '/orders/$number', params: { number: j.order } })}
            opens={t`Open the order`}
            empty={
              grid.search.q || grid.search.only ? (
                <Empty title={t`Nothing that waits to be packed fits this.`}>{t`Take a filter away.`}</Empty>
              ) : (
                <Empty title={t`Nothing waits to be packed.`}>
                  <Trans>
                    Units come here when rows of a{' '}
                    <Link to="/floor" className="ref">
                      pick list
                    </Link>{' '}
                    are confirmed.
                  </Trans>
                </Empty>
              )
            }
          />
        </div>
        {job && (
          <div className="min-w-0 overflow-y-auto min-[1120px]:w-[43%] max-[1119px]:max-h-[60%]">
            <Bench key={idOf(job)} job={job} />
          </div>
        )}
      </div>
    </Page>
  );
}
