import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Act } from '../../parts/Act';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { Day, Facts, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showKg, showNum } from '../../base/format';
import { Quantity } from '../../parts/Quantity';
import { useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { shipRules } from '../../parts/asides';

type Job = Schemas['PackingJob'];

/** Orders with picked units, and the bench on which the one in focus is packed. */
export function PackingPage() {
  const jobs = useQuery(questions.packing());
  const [s] = useList();
  const focus = useRows(jobs.data ?? [], (j) => `${j.order} ${j.warehouse}`, s.row);
  return (
    <Page>
      <PageHead title={t`Picked: packing`} sub={jobs.data && t`${plural(jobs.data.length, 'order')} to be packed`} />
      <Load of={jobs}>
        {(d) =>
          d.length === 0 ? (
            <Empty title={t`Nothing waits to be packed.`}>
              <Trans>
                Units come here when rows of a{' '}
                <Link to="/floor" className="ref">
                  pick list
                </Link>{' '}
                are confirmed.
              </Trans>
            </Empty>
          ) : (
            <div className="grid grid-cols-1 items-start gap-6 min-[1120px]:grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)]">
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>{t`Tier`}</th>
                    <th>{t`Ship by`}</th>
                    <th>{t`Order`}</th>
                    <th>{t`Customer`}</th>
                    <th>{t`At`}</th>
                    <th className="num">{t`Units`}</th>
                    <th className="num">{t`Weight`}</th>
                  </tr>
                </thead>
                <tbody>
                  {d.map((j) => {
                    const id = `${j.order} ${j.warehouse}`;
                    return (
                      <tr key={id} data-row data-focus={focus.id === id} onClick={() => focus.setFocus(id)}>
                        <td>
                          <Tier n={j.tier} />
                        </td>
                        <td>
                          <Day iso={j.ship_by} late={j.late} />
                        </td>
                        <td className="font-semibold">
                          {j.order} {j.holds.length > 0 && <span className="late">{t`on hold`}</span>}
                        </td>
                        <td className="max-w-[150px] truncate" title={j.customer}>
                          {j.customer}
                        </td>
                        <td>{j.warehouse}</td>
                        <td className="num">{showNum(j.units)}</td>
                        <td className="num">{showKg(j.weight_g)}</td>
                      </tr>
                    );
                  })}
                </tbody>
              </table>
              {focus.row && <Bench key={focus.id} job={focus.row} />}
            </div>
          )
        }
      </Load>
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
  const kg = Number(text.replace(',', '.'));
  return text.trim() && Number.isFinite(kg) && kg > 0 ? Math.round(kg * 1000) : undefined;
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
      },
    });
  return (
    <section
      aria-label={t`Packing ${job.order}`}
      className="top-0 order-first rounded-box border border-line bg-card p-4 min-[1120px]:sticky min-[1120px]:order-none"
    >
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
                placeholder={goods(i) === undefined ? '' : String((goods(i) ?? 0) / 1000)}
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
            <div key={l.id} className="flex h-8 items-center gap-3">
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
