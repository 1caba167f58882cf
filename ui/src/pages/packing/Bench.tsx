import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { ask, client } from '../../api/call';
import { writeDecimal } from '../../base/decimal';
import { plural, showKg, showNum } from '../../base/format';
import { say } from '../../base/say';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { Act } from '../../parts/Act';
import { shipRules } from '../../parts/asides';
import { Facts, OrderLink } from '../../parts/bits';
import {
  boxesOf,
  contentsOf,
  grams,
  leftOf,
  packing,
  rowsOf,
  type Box,
  type Job,
  type Proposal,
  type Row,
  type Ware,
} from '../../parts/boxes';
import { packTrial, proposal } from '../../parts/packing';
import { Quantity } from '../../parts/Quantity';
import { useCommand } from '../../parts/useCommand';

/** The bench on which an order is packed: what is proposed, and whatever one makes of it. */
export function Bench({ job }: { job: Job }) {
  const { may } = useSigned();
  const [ware, setWare] = useState<Ware>();
  const proposed = useQuery(proposal(job, ware)).data;
  const [typed, setTyped] = useState<Box[]>();
  const [into, setInto] = useState('');
  const boxes = typed ?? (proposed ? boxesOf(job, proposed) : []);
  const rows = rowsOf(job);
  const setBoxes = (next: (was: Box[]) => Box[]) => setTyped(next(boxes));
  const pack = useCommand('/api/pack', () => setTyped(undefined));
  const trial = useQuery({ ...packTrial(job, boxes), enabled: boxes.length > 0 });
  const tried = trial.data;
  const left = (l: Row) => (l.lot === undefined ? (tried?.left.find((x) => x.line === l.id)?.qty ?? 0) : leftOf(boxes, l));
  // What was worked out for other packages is no bound: the server refuses what is too many.
  const most = (i: number, l: Row) => {
    if (l.lot !== undefined) return leftOf(boxes, l) + (boxes[i]?.qty[l.key] ?? 0);
    return (trial.isPlaceholderData ? undefined : tried?.packages[i]?.most.find((m) => m.line === l.id)?.qty) ?? l.picked;
  };
  const set = (i: number, patch: Partial<Box>) => setBoxes((bs) => bs.map((b, j) => (i === j ? { ...b, ...patch } : b)));
  const filled = boxes.filter((b) => contentsOf(job, b).length > 0);
  const unread = boxes.some((b) => b.kg && grams(b.kg) === undefined);
  const ready = filled.length > 0 && !unread && may('pack') && !pack.busy;
  const kinds = proposed?.kinds ?? [];
  const run = () => pack.run({ ask: packing(job, kinds, boxes, into || undefined) });
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
          <Trans>Still being picked here: {plural(job.still_coming, 'unit')} of it.</Trans>
        </p>
      )}
      {proposed && (
        <Plan
          of={proposed}
          ware={ware}
          changed={typed !== undefined}
          take={(w) => {
            setWare(w);
            setTyped(undefined);
          }}
        />
      )}
      {proposed && (proposed.into.length > 0 || job.joins) && (
        <label className="mt-2 flex items-center gap-2">
          {t`into`}
          <select className="select select-sm" aria-label={t`Shipment`} value={into} onChange={(e) => setInto(e.target.value)}>
            <option value="">{job.joins ? t`its own shipment ${job.joins}` : t`a new shipment`}</option>
            {proposed.into
              .filter((x) => x.shipment !== job.joins)
              .map((x) => {
                const why = say(x.why);
                return (
                  <option key={x.shipment} value={x.shipment} disabled={why !== ''}>
                    {x.shipment} ({x.orders}){why && `: ${why}`}
                  </option>
                );
              })}
          </select>
        </label>
      )}
      {boxes.map((b, i) => (
        <fieldset key={i} className="mt-3 rounded-box border border-line p-3">
          <legend className="px-1 font-semibold">
            <Trans>Package {i + 1}</Trans>
          </legend>
          <div className="mb-2 flex flex-wrap items-center gap-3">
            <select
              aria-label={t`Kind of package ${i + 1}`}
              className="select select-sm"
              value={b.of}
              onChange={(e) => set(i, { of: e.target.value })}
            >
              {kinds.map((k) => (
                <option key={k.code} value={k.code}>
                  {k.name}
                </option>
              ))}
              <option value="">{t`by itself`}</option>
            </select>
            <Weight job={job} box={b} n={i + 1} should={tried?.packages[i]?.weight_g} set={(kg) => set(i, { kg })} />
            {boxes.length > 1 && (
              <button className="btn btn-xs btn-pill ml-auto" onClick={() => setBoxes((bs) => bs.filter((_, j) => j !== i))}>
                {t`Take away`}
              </button>
            )}
          </div>
          {b.kg && grams(b.kg) === undefined && <p className="late">{t`Type kilograms, such as 12.5`}</p>}
          {tried?.packages[i]?.off && (
            <p className="late">
              <Trans>By its items it weighs {showKg(tried.packages[i]?.weight_g ?? 0)}: count again what is in it.</Trans>
            </p>
          )}
          {tried?.packages[i]?.heavy && (
            <p className="late">
              <Trans>It may weigh {showKg(kinds.find((k) => k.code === b.of)?.most_g ?? 0)}: split it, or take another.</Trans>
            </p>
          )}
          {rows.map((l) => (
            <div key={l.key} className="flex min-h-8 items-center gap-3 py-0.5">
              <Quantity
                label={l.lot ? t`${l.sku} of lot ${l.lot} in package ${i + 1}` : t`${l.sku} in package ${i + 1}`}
                value={b.qty[l.key] ?? 0}
                most={most(i, l)}
                set={(n) => set(i, { qty: { ...b.qty, [l.key]: n } })}
                enter={ready ? run : undefined}
              />
              <span className="text-mute">
                <Trans>of {showNum(l.picked)}</Trans>
              </span>
              <span className="truncate">
                <b>{l.sku}</b> {l.lot && <b>{t`lot ${l.lot}`}</b>} <span className="text-mute">{l.item}</span>
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
              {
                of: bs[bs.length - 1]?.of ?? '',
                kg: '',
                qty: Object.fromEntries(rows.map((l) => [l.key, left(l)])),
              },
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

/** What is proposed, in a line, with what else could be. */
function Plan({ of: p, ware, changed, take }: { of: Proposal; ware: Ware; changed: boolean; take: (ware: Ware) => void }) {
  const counts = new Map<string, number>();
  for (const x of p.packages) counts.set(x.of, (counts.get(x.of) ?? 0) + 1);
  const name = (code: string) => p.kinds.find((k) => k.code === code)?.name ?? t`by itself`;
  const left = p.left.reduce((n, x) => n + x.qty, 0);
  const onPallets = p.packages.some((x) => p.kinds.find((k) => k.code === x.of)?.pallet);
  return (
    <p className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1">
      <span>
        {t`Proposed:`}{' '}
        {[...counts].map(([code, n], i) => (
          <span key={code}>
            {i > 0 && ', '}
            <b>{showNum(n)}</b> × {name(code)}
          </span>
        ))}
        {p.fewest && <span className="text-mute"> · {t`no fewer are possible`}</span>}
        {p.unsized > 0 && (
          <span className="text-mute">
            {' '}
            · <Trans>of unknown size: {plural(p.unsized, 'unit')}</Trans>
          </span>
        )}
        {left > 0 && <span className="late"> · {t`${showNum(left)} are left for more packages`}</span>}
      </span>
      {changed && (
        <button className="btn btn-xs btn-pill" onClick={() => take(ware)}>
          {t`As proposed`}
        </button>
      )}
      <button className="btn btn-xs btn-pill" onClick={() => take(onPallets ? 'cartons' : 'pallets')}>
        {onPallets ? t`Into cartons` : t`Onto pallets`}
      </button>
    </p>
  );
}

/** The weight of a package, typed or from the scale. */
function Weight({ job, box, n, should, set }: { job: Job; box: Box; n: number; should?: number; set: (kg: string) => void }) {
  const { tell } = useToasts();
  const weigh = async () => {
    try {
      const body = { order: job.order, warehouse: job.warehouse, of: box.of, contents: contentsOf(job, box) };
      const w = await ask(client.POST('/api/weigh', { body }));
      set(writeDecimal(w.weight_g, 3, undefined, 0));
    } catch (e) {
      tell({ text: e instanceof Error ? e.message : String(e), bad: true });
    }
  };
  return (
    <>
      <label className="flex items-center gap-2">
        <input
          className="qty !w-20"
          inputMode="decimal"
          aria-label={t`Weight of package ${n} in kg`}
          placeholder={should === undefined ? '' : writeDecimal(should, 3, undefined, 0)}
          value={box.kg}
          onChange={(e) => set(e.target.value)}
        />
        {t`kg`}
      </label>
      <button className="btn btn-xs btn-pill" aria-label={t`Weigh package ${n}`} onClick={() => void weigh()}>
        {t`Weigh`}
      </button>
    </>
  );
}
