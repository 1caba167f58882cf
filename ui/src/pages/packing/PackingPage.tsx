import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Act } from '../../parts/Act';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { Day, Facts, Holds, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showKg, showMoney, showNum, showSum } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { readDecimal, writeDecimal } from '../../base/decimal';
import { Quantity } from '../../parts/Quantity';
import { ScanBox, type Scanned } from '../../parts/ScanBox';
import { Find } from '../../parts/list';
import { Empty } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { shipRules } from '../../parts/asides';

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

interface Box {
  kind: 'carton' | 'pallet';
  kg: string; // as typed; empty: what the goods in it weigh by their items
  qty: Record<number, number>;
}

function everything(job: Job): Box {
  return {
    kind: job.weight_g > 30_000 ? 'pallet' : 'carton',
    kg: '',
    qty: Object.fromEntries(job.lines.map((l) => [l.id, l.picked])),
  };
}

/** Grams from kilograms as typed, or undefined if it is not a weight. */
function grams(text: string): number | undefined {
  const g = readDecimal(text, 3);
  return g !== undefined && g > 0 ? g : undefined;
}

function Bench({ job }: { job: Job }) {
  const { may } = useSigned();
  const [boxes, setBoxes] = useState<Box[]>([everything(job)]);
  const pack = useCommand('/api/pack');
  const contents = (b: Box) => job.lines.flatMap((l) => ((b.qty[l.id] ?? 0) > 0 ? [{ line: l.id, qty: b.qty[l.id] ?? 0 }] : []));
  const body = { order: job.order, warehouse: job.warehouse, packages: boxes.map(contents) };
  const trial = useQuery({
    queryKey: ['pack try', body],
    queryFn: ({ signal }) => ask(client.POST('/api/rehearse-pack', { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const tried = trial.data;
  const left = (line: number) => tried?.left.find((l) => l.line === line)?.qty ?? 0;
  const most = (i: number, l: Job['lines'][number]) => tried?.packages[i]?.most.find((m) => m.line === l.id)?.qty ?? l.picked;
  const set = (i: number, patch: Partial<Box>) => setBoxes((bs) => bs.map((b, j) => (i === j ? { ...b, ...patch } : b)));
  const goods = (i: number) => tried?.packages[i]?.goods_g;
  // What was not weighed weighs what its goods weigh: the server adds it up, so that nobody waits for the sum shown here.
  const filled = boxes.filter((b) => contents(b).length > 0);
  const unread = boxes.some((b) => b.kg && grams(b.kg) === undefined);
  const ready = filled.length > 0 && !unread && may('pack') && !pack.busy;
  const run = () =>
    pack.run({
      ask: {
        order: job.order,
        warehouse: job.warehouse,
        packages: filled.map((b) => ({ kind: b.kind, weight_g: grams(b.kg), contents: contents(b) })),
        labels: true,
      },
    });
  return (
    <section aria-label={t`Packing ${job.order}`} className="rounded-box border border-line bg-card p-4">
      <h2 className="text-lead">
        <OrderLink number={job.order} /> {job.customer}
      </h2>
      <p className="mt-0.5 text-mute">
        <Trans>
          to {job.ship_to} · {job.service} · {shipRules[job.ship_rule]}
        </Trans>
      </p>
      {job.holds.length > 0 && (
        <p className="late mt-1">
          <Trans>On {job.holds.join(' and ')} hold: what is packed may not leave until the hold is lifted.</Trans>
        </p>
      )}
      {job.still_coming > 0 && (
        <p className="late mt-1">
          <Trans>{plural(job.still_coming, 'unit')} of it are still being picked here.</Trans>
        </p>
      )}
      {job.joins && (
        <p className="mt-1">
          <Trans>What is packed joins shipment {job.joins}.</Trans>
        </p>
      )}
      {boxes.map((b, i) => (
        <fieldset key={i} className="mt-3 rounded-box border border-line p-3">
          <legend className="px-1 font-semibold">
            <Trans>Package {i + 1}</Trans>
          </legend>
          <div className="mb-2 flex items-center gap-3">
            <select
              aria-label={t`Kind of package ${i + 1}`}
              className="select select-sm"
              value={b.kind}
              onChange={(e) => set(i, { kind: e.target.value as Box['kind'] })}
            >
              <option value="carton">{t`carton`}</option>
              <option value="pallet">{t`pallet`}</option>
            </select>
            <label className="flex items-center gap-2">
              <input
                className="qty !w-20"
                inputMode="decimal"
                aria-label={t`Weight of package ${i + 1} in kg`}
                placeholder={goods(i) === undefined ? '' : writeDecimal(goods(i) ?? 0, 3, undefined, 0)}
                value={b.kg}
                onChange={(e) => set(i, { kg: e.target.value })}
              />
              {t`kg`}
            </label>
            {b.kg && grams(b.kg) === undefined && <span className="late">{t`Type kilograms, such as 12.5`}</span>}
            {boxes.length > 1 && (
              <button className="btn btn-xs btn-pill ml-auto" onClick={() => setBoxes((bs) => bs.filter((_, j) => j !== i))}>
                {t`Take away`}
              </button>
            )}
          </div>
          {job.lines.map((l) => (
            <div key={l.id} className="flex min-h-8 items-center gap-3 py-0.5">
              <Quantity
                label={t`${l.sku} in package ${i + 1}`}
                value={b.qty[l.id] ?? 0}
                most={most(i, l)}
                set={(n) => set(i, { qty: { ...b.qty, [l.id]: n } })}
                enter={ready ? run : undefined}
              />
              <span className="text-mute">
                <Trans>of {showNum(l.picked)}</Trans>
              </span>
              <span className="truncate">
                <b>{l.sku}</b> <span className="text-mute">{l.item}</span>
              </span>
            </div>
          ))}
        </fieldset>
      ))}
      <div className="mt-3 flex items-center gap-3">
        <button
          className="btn btn-sm"
          disabled={trial.isPlaceholderData || !tried}
          onClick={() =>
            setBoxes((bs) => [
              ...bs,
              { kind: 'carton', kg: '', qty: Object.fromEntries(job.lines.map((l) => [l.id, left(l.id)])) },
            ])
          }
        >
          {t`Another package`}
        </button>
        <div className="ml-auto w-[150px]">
          <Facts rows={[[t`Not in a package`, showNum(tried?.units ?? 0)]]} />
        </div>
        <Act
          keys="p"
          does={t`Pack as shown`}
          look="main"
          why={may('pack') ? '' : t`Packing is for the floor or a coordinator.`}
          off={!ready}
          run={run}
        >
          <Trans>Pack {plural(filled.length, 'package')}</Trans>
        </Act>
      </div>
    </section>
  );
}
