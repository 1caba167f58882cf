import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useParams, useSearch } from '@tanstack/react-router';
import { useEffect, useState } from 'react';
import { ask, client, type Outcome } from '../../api/call';
import { writeDecimal } from '../../base/decimal';
import { plural, showKg, showNum } from '../../base/format';
import { sound } from '../../base/sound';
import { useToasts } from '../../base/toasts';
import { contentsOf, leftOf, packing, rowsOf, type Job, type Proposal } from '../../parts/boxes';
import { packTrial, proposal } from '../../parts/packing';
import { Load } from '../../parts/states';
import { isEmpty, leftInAll, packScan, planned, stillTrue, type BenchAt } from './bench';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { unitOf } from './scan';
import { useJobScan } from './useJobScan';

/** An order is packed, one scan after another. */
export function BenchPage() {
  const order: string = useParams({ strict: false }).number ?? '';
  const { at: warehouse }: { at?: string } = useSearch({ strict: false });
  const jobs = useQuery({
    queryKey: ['packing', 'of', order],
    queryFn: async ({ signal }) => (await ask(client.GET('/api/packing', { params: { query: { q: order } }, signal }))).jobs,
  });
  const [packed, setPacked] = useState<Outcome>();
  const job = jobs.data?.find((j) => j.order === order && (!warehouse || j.warehouse === warehouse));
  const proposed = useQuery({ ...proposal(job ?? { order, warehouse: '', units: 0 }, undefined), enabled: job !== undefined });
  if (packed) return <Packed of={packed} order={order} />;
  if (job && proposed.data) {
    return <Bench key={`${job.order} ${job.warehouse}`} job={job} proposed={proposed.data} packed={setPacked} />;
  }
  return (
    <FloorFrame
      title={order}
      foot={
        <Link to="/pack" className="btn btn-quiet">
          {t`Orders`}
        </Link>
      }
    >
      {job ? (
        <Load of={proposed}>{() => null}</Load>
      ) : (
        <Load of={jobs}>
          {() => <p className="pt-6 text-center text-head text-mute">{t`Nothing of ${order} waits to be packed.`}</p>}
        </Load>
      )}
    </FloorFrame>
  );
}

const keep = (job: Job) => `journeyman.packing ${job.order} ${job.warehouse}`;

function kept(job: Job): BenchAt | undefined {
  try {
    return JSON.parse(localStorage.getItem(keep(job)) ?? 'null') as BenchAt | undefined;
  } catch {
    return undefined;
  }
}

function Bench({ job, proposed, packed }: { job: Job; proposed: Proposal; packed: (o: Outcome) => void }) {
  const { carryOut } = useToasts();
  const queries = useQueryClient();
  const [was, setAt] = useState(() => stillTrue(job, proposed, kept(job)));
  const at = stillTrue(job, proposed, was);
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const [busy, setBusy] = useState(false);
  const tried = useQuery(packTrial(job, at.boxes)).data;
  const left = leftInAll(job, at.boxes);
  const box = at.boxes[at.now];
  useEffect(() => localStorage.setItem(keep(job), JSON.stringify(at)), [job, at]);
  const hear = (kind: 'right' | 'wrong', text: string) => {
    setHeard({ kind, text });
    sound(kind === 'right');
  };
  const failed = (e: unknown) => hear('wrong', e instanceof Error ? e.message : String(e));
  const pack = async () => {
    if (busy) return;
    setBusy(true);
    try {
      const o = await carryOut('/api/pack', packing(job, proposed.kinds, at.boxes));
      localStorage.removeItem(keep(job));
      sound(true);
      packed(o);
    } catch (e) {
      failed(e);
      setBusy(false);
    } finally {
      void queries.invalidateQueries();
    }
  };
  const take = (text: string) => {
    const step = packScan(job, proposed, at, text);
    setAt(step.at);
    if (step.done) void pack();
    else hear(step.heard.kind, step.heard.text);
  };
  const weigh = async () => {
    if (!box) return;
    try {
      const body = { order: job.order, warehouse: job.warehouse, of: box.of, contents: contentsOf(job, box) };
      const w = await ask(client.POST('/api/weigh', { body }));
      setAt({
        ...at,
        boxes: at.boxes.map((b, i) => (i === at.now ? { ...b, kg: writeDecimal(w.weight_g, 3, undefined, 0) } : b)),
      });
      if (w.off) hear('wrong', t`It weighs ${showKg(w.weight_g)}, by its items ${showKg(w.should_g)}. Count again.`);
      else hear('right', t`Package ${at.now + 1} weighs ${showKg(w.weight_g)}.`);
    } catch (e) {
      failed(e);
    }
  };
  return (
    <FloorFrame
      title={job.order}
      sub={`${job.customer} · ${job.service} · ${job.warehouse}`}
      foot={
        <>
          <span>
            {left > 0 ? t`In no package: ${showNum(left)}` : t`All of it is in packages`}
            <span className="opacity-80 max-[500px]:hidden">
              {' '}
              · {plural(at.boxes.filter((b) => !isEmpty(b)).length, 'package')}
            </span>
          </span>
          <span className="ml-auto flex gap-3">
            <Link to="/pack" className="btn btn-quiet max-[500px]:hidden">
              {t`Orders`}
            </Link>
            <button className="btn btn-main" disabled={busy || at.boxes.every(isEmpty)} onClick={() => void pack()}>
              {left > 0 ? t`Pack what is in` : t`Pack`} <span aria-hidden>⏎</span>
            </button>
          </span>
        </>
      }
    >
      <Unsent />
      {job.holds.length > 0 && (
        <p role="alert" className="floor-box floor-stop mb-2">
          <Trans>On {job.holds.join(' and ')} hold: what is packed may not leave until the hold is lifted.</Trans>
        </p>
      )}
      {job.still_coming > 0 && (
        <p className="floor-box mb-2">
          <Trans>Still being picked here: {plural(job.still_coming, 'unit')} of it.</Trans>
        </p>
      )}
      <Boxes at={at} proposed={proposed} go={(now) => setAt({ ...at, now, row: undefined })} />
      {box && (
        <section aria-label={t`Package ${at.now + 1}`} className="floor-now">
          <p className="flex flex-wrap items-baseline justify-between gap-x-4 text-head text-mute">
            <span>
              <Trans>
                Package {at.now + 1} of {at.boxes.length}
              </Trans>
            </span>
            <span>
              {box.kg ? t`${box.kg} kg` : showKg(tried?.packages[at.now]?.weight_g ?? 0)}
              {tried?.packages[at.now]?.heavy && <b className="late"> · {t`too heavy`}</b>}
            </span>
          </p>
          <b className="text-large">{proposed.kinds.find((k) => k.code === box.of)?.name ?? t`By itself`}</b>
          {rowsOf(job)
            .filter(
              (l) => (box.qty[l.key] ?? 0) > 0 || planned(job, proposed, at.boxes, at.now, l.key) > 0 || leftOf(at.boxes, l) > 0,
            )
            .map((l) => {
              const n = box.qty[l.key] ?? 0;
              const plan = planned(job, proposed, at.boxes, at.now, l.key);
              const open = leftOf(at.boxes, l);
              return (
                <p
                  key={l.key}
                  className={
                    'flex items-baseline gap-3 border-t border-line px-1 py-1.5 text-head' +
                    (l.key === at.row ? ' bg-focus-ground' : '')
                  }
                >
                  <b className="w-[118px] shrink-0 text-large max-[500px]:w-[88px]">
                    {showNum(n)}
                    <span className="text-head font-normal text-mute">
                      {' '}
                      {plan > 0 ? t`of ${showNum(plan)}` : unitOf(l.unit, n)}
                    </span>
                  </b>
                  <span className="min-w-0 flex-1 truncate">
                    <b>{l.sku}</b> {l.lot && <b>{t`lot ${l.lot}`}</b>} {l.item}
                  </span>
                  {open > 0 && <span className="text-mute">{t`${showNum(open)} left`}</span>}
                </p>
              );
            })}
        </section>
      )}
      <div className="mt-2">
        <ScanField label={left > 0 ? t`Scan an item or a carton…` : t`Enter packs it all…`} take={take} disabled={busy} />
      </div>
      <Heard of={heard} />
      <div className="mt-3 grid grid-cols-2 gap-3 max-[400px]:grid-cols-1">
        {box && !isEmpty(box) && (
          <button className="btn floor-way" onClick={() => void weigh()}>
            {t`Weigh package ${at.now + 1}`}
          </button>
        )}
        {box && !isEmpty(box) && (
          <button
            className="btn floor-way"
            onClick={() => {
              setAt({ ...at, row: undefined, boxes: at.boxes.map((b, i) => (i === at.now ? { ...b, kg: '', qty: {} } : b)) });
              hear('right', t`Package ${at.now + 1} is empty again.`);
            }}
          >
            {t`Empty package ${at.now + 1}`}
          </button>
        )}
        {proposed.kinds.map((k) => (
          <button key={k.code} className="btn floor-way" onClick={() => take(k.code)}>
            {box && isEmpty(box) ? t`Take: ${k.name}` : t`Next package: ${k.name}`}
          </button>
        ))}
      </div>
    </FloorFrame>
  );
}

/** The packages in a row, with how full they are; a touch goes to one. */
function Boxes({ at, proposed, go }: { at: BenchAt; proposed: Proposal; go: (i: number) => void }) {
  if (at.boxes.length < 2) return null;
  return (
    <div className="mb-2 flex flex-wrap gap-2" role="group" aria-label={t`Packages`}>
      {at.boxes.map((b, i) => (
        <button key={i} className="btn floor-choice !w-auto" aria-pressed={i === at.now} onClick={() => go(i)}>
          {i + 1} · {proposed.kinds.find((k) => k.code === b.of)?.name ?? t`By itself`}
          <span className="text-mute">{showNum(Object.values(b.qty).reduce((n, q) => n + q, 0))}</span>
        </button>
      ))}
    </div>
  );
}

/** What came of it, and what is next. */
function Packed({ of: o, order }: { of: Outcome; order: string }) {
  const shipment = o.documents?.find((d) => d.kind === 'shipment')?.number;
  const { take, heard } = useJobScan();
  return (
    <FloorFrame
      title={order}
      foot={
        <Link to="/pack" className="btn btn-main ml-auto">
          {t`Next order`} <span aria-hidden>⏎</span>
        </Link>
      }
    >
      <div className="floor-box floor-right mt-3">
        <p role="status" className="text-large font-bold">
          {o.sentence}
        </p>
        <p className="mt-1 text-head">{t`Its labels are being printed. Stick each on its package.`}</p>
        {shipment && (
          <p className="mt-2 text-head">
            <Link to="/shipments/$number" params={{ number: shipment }} className="ref">
              {shipment}
            </Link>
          </p>
        )}
      </div>
      <div className="mt-3">
        <ScanField label={t`Scan the next sheet or order…`} take={take} />
      </div>
      <Heard of={heard} />
    </FloorFrame>
  );
}
