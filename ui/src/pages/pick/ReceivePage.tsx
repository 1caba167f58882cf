import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type AskOf } from '../../api/call';
import { plural, showDay, showNum } from '../../base/format';
import { bears, lotOf } from '../../base/gs1';
import { useSigned } from '../../base/session';
import { sound } from '../../base/sound';
import { Tier } from '../../parts/bits';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { receive, receivedAfter, type Inbound, type ReceiveAt } from './receive';
import { unitOf } from './scan';
import { useQueue } from './useQueue';

type Receipt = AskOf<'/api/receive'>;

/** Why more came, or fewer, as whoever takes it in says it. */
const reasons = {
  more: [t`The supplier sent more`, t`It replaces what was broken before`],
  fewer: [t`The supplier sent fewer`, t`The rest came broken and went back`],
};

/** What has come, taken in by scanning: the item, how many, and the bin; then what waits for it. */
export function ReceivePage() {
  const { queue, list } = useQueue();
  const [sought, setSought] = useState('');
  const [at, setAt] = useState<ReceiveAt>();
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const [chosen, setChosen] = useState<Inbound>();
  const [last, setLast] = useState<Inbound>();
  const expected = useQuery({
    queryKey: ['inbound', 'to receive', sought],
    queryFn: ({ signal }) => ask(client.GET('/api/inbound', { params: { query: { q: sought || undefined } }, signal })),
    placeholderData: keepPreviousData,
  });
  const sent = list.flatMap((q) => (q.path === '/api/receive' && q.refused === undefined ? [q.ask as Receipt] : []));
  const all = receivedAfter(expected.data?.inbound ?? [], sent);
  // What was found is held on to while the list is fetched anew.
  const now = all.find((n) => n.id === at?.inbound) ?? (chosen?.id === at?.inbound ? chosen : undefined);
  const hear = (kind: 'right' | 'wrong', text: string) => {
    setHeard({ kind, text });
    sound(kind === 'right');
  };
  const put = (of: Inbound, from: ReceiveAt, qty: number, bin: string, lot?: string) => {
    const lots = lot ? [{ lot, qty }] : undefined;
    queue.put(
      '/api/receive',
      { inbound: of.id, qty, bin, item: from.item, why: from.why, last: from.last, seen: of.received + 1, lots },
      t`${showNum(qty)} of ${of.sku} from ${of.ref} into ${bin}`,
    );
    setLast(of);
  };
  const take = async (text: string) => {
    let rows = all;
    const code = text.trim();
    // What is expected later than what is listed is looked for.
    if (!now && code !== '' && !all.some((n) => bears(n, code) || n.ref.toLowerCase() === code.toLowerCase())) {
      try {
        const found = await ask(client.GET('/api/inbound', { params: { query: { q: lotOf(code)?.item || code } } }));
        rows = receivedAfter(found.inbound, sent);
        if (rows.length > 0) setSought(lotOf(code)?.item || code);
      } catch (e) {
        return hear('wrong', e instanceof Error ? e.message : String(e));
      }
    }
    const step = receive(now && !rows.includes(now) ? [...rows, now] : rows, now && at, text);
    if (step.done && at) put(step.done.of, at, step.done.qty, step.done.bin, step.done.lot);
    if (step.done) setSought('');
    setAt(step.at);
    setChosen(rows.find((n) => n.id === step.at?.inbound) ?? now);
    hear(step.heard.kind, step.heard.text);
  };
  const because = (why: string) => {
    if (!now || !at) return;
    setAt({ ...at, why });
    hear('right', now.bin ? t`Now the bin: Enter for ${now.bin}.` : t`Now any bin.`);
  };
  const more = now !== undefined && at?.qty !== undefined && at.qty > now.left && !at.why;
  const fewer = now !== undefined && at?.qty !== undefined && at.qty < now.left;
  return (
    <FloorFrame
      title={t`Receive`}
      sub={expected.data && plural(all.length, 'receipt')}
      foot={
        <>
          <Link to="/pick" className="btn btn-quiet">
            {t`Lists`}
          </Link>
          {now && (
            <button
              className="btn btn-quiet ml-auto"
              onClick={() => {
                setAt(undefined);
                setHeard(undefined);
              }}
            >
              {t`Another receipt`}
            </button>
          )}
        </>
      }
    >
      <Unsent />
      {now && at && (
        <section aria-label={now.ref} className="floor-now mb-2">
          <p className="text-head text-mute">
            {now.ref} {now.supplier} · {now.warehouse}
          </p>
          <div className="flex flex-wrap items-baseline justify-between gap-x-4">
            <b className="text-huge">{now.sku}</b>
            <b className="text-huge">
              {showNum(at.qty ?? now.left)} <span className="text-large">{unitOf(now.unit, at.qty ?? now.left)}</span>
            </b>
          </div>
          <p className="text-large">
            {now.item} {at.lot && <b>{t`lot ${at.lot}`}</b>}
          </p>
          <p className="mt-1 text-head text-mute">
            {at.qty === undefined ? t`${showNum(now.left)} are expected.` : now.bin ? t`Put into ${now.bin}` : t`No bin is set.`}
            {now.waiting > 0 && <b className="late"> {t`Wanted: ${showNum(now.waiting)}`}</b>}
          </p>
        </section>
      )}
      <ScanField label={labelOf(now, at)} take={(text) => void take(text)} />
      <Heard of={heard} />
      {more && (
        <div className="mt-3 grid grid-cols-2 gap-3 max-[400px]:grid-cols-1">
          {reasons.more.map((why) => (
            <button key={why} className="btn floor-way" onClick={() => because(why)}>
              {why}
            </button>
          ))}
        </div>
      )}
      {fewer && !at.last && (
        <div className="mt-3 grid grid-cols-2 gap-3 max-[400px]:grid-cols-1">
          {reasons.fewer.map((why) => (
            <button
              key={why}
              className="btn floor-way"
              onClick={() => {
                setAt({ ...at, why, last: true });
                hear('right', t`Nothing more is expected then. Now the bin.`);
              }}
            >
              {why}
            </button>
          ))}
        </div>
      )}
      {!now && last && <Waiting of={last} />}
      {!now && (
        <Load of={expected}>
          {() =>
            all.length === 0 ? (
              <p className="pt-6 text-center text-head text-mute">{t`Nothing is expected.`}</p>
            ) : (
              <section aria-label={t`Expected`} className="pt-4">
                {all.map((n) => (
                  <button
                    key={n.id}
                    className="floor-box floor-choice mb-2"
                    onClick={() => {
                      setAt({ inbound: n.id });
                      setChosen(n);
                      setHeard(undefined);
                    }}
                  >
                    <span className="flex items-baseline gap-3">
                      <b className="text-large">{n.ref}</b>
                      <span className="min-w-0 truncate">
                        {n.sku} <span className="text-mute max-[500px]:hidden">{n.item}</span>
                      </span>
                      <span className={`ml-auto whitespace-nowrap ${n.overdue ? 'late' : ''}`}>{showDay(n.due)}</span>
                    </span>
                    <span className="block text-mute">
                      {showNum(n.left)} {unitOf(n.unit, n.left)} · {n.warehouse}
                      {n.bin && ` · ${n.bin}`}
                      {n.waiting > 0 && <b className="late"> · {t`wanted: ${showNum(n.waiting)}`}</b>}
                    </span>
                  </button>
                ))}
                {expected.data?.next && (
                  <p className="text-head text-mute">{t`More are expected: scan or type one to find it.`}</p>
                )}
              </section>
            )
          }
        </Load>
      )}
    </FloorFrame>
  );
}

/** What is scanned or typed next. */
function labelOf(now: Inbound | undefined, at: ReceiveAt | undefined): string {
  if (!now || !at) return t`Scan a delivery note or an item…`;
  if (at.item === undefined) return t`Scan the item…`;
  if (now.by_lots && at.lot === undefined) return t`Scan or type its lot…`;
  if (at.qty === undefined) return t`Enter for all ${showNum(now.left)}, or type how many…`;
  return now.bin ? t`Enter for ${now.bin}, or scan another bin…` : t`Scan the bin…`;
}

/** What is allocated can be released on purpose, however far off the day is on which it is due. */
const far = '9999-12-31';

/** Which lines wait for what has just come, the most urgent first, with what lets them go. */
function Waiting({ of: n }: { of: Inbound }) {
  const { may } = useSigned();
  const allocate = useCommand('/api/allocate');
  const release = useCommand('/api/release');
  const lines = useQuery({
    queryKey: ['open', 'waiting', n.sku, n.warehouse],
    queryFn: async ({ signal }) =>
      (
        await ask(
          client.GET('/api/open', {
            params: { query: { sort: 'tier', only: [`item=${n.sku}`, `warehouse=${n.warehouse}`] } },
            signal,
          }),
        )
      ).lines,
  }).data;
  const gone = useQuery({
    queryKey: ['release', 'waiting', n.sku, n.warehouse],
    queryFn: async ({ signal }) =>
      (
        await ask(
          client.GET('/api/release', {
            params: { query: { until: far, sort: 'tier', only: [`item=${n.sku}`, `warehouse=${n.warehouse}`] } },
            signal,
          }),
        )
      ).lines,
    enabled: may('release'),
  }).data;
  if (!lines || (lines.length === 0 && !gone?.length)) return null;
  return (
    <section aria-label={t`Waiting for ${n.sku}`} className="pt-4">
      <h2 className="pb-1 text-head font-semibold">
        {lines.length > 0 ? t`${n.sku} is waited for` : t`${n.sku} can go to the floor`}
      </h2>
      {lines.slice(0, 6).map((l) => {
        const can = l.can.find((c) => c.verb === 'allocate')?.qty ?? 0;
        return (
          <p key={l.id} className="flex items-center gap-3 border-b border-line py-2 text-head">
            <Tier n={l.tier} />
            <b>{l.order}</b>
            <span className="min-w-0 flex-1 truncate text-mute">{l.customer}</span>
            <span className="whitespace-nowrap">
              {t`${showNum(l.at.open)} open`} · <span className={l.late ? 'late' : ''}>{showDay(l.ship_by)}</span>
            </span>
            {may('allocate') && can > 0 && (
              <button
                className="btn"
                disabled={allocate.busy}
                onClick={() => allocate.run({ ask: { lines: [{ line: l.id, qty: can, seen: l.version }] } })}
              >
                <Trans>Allocate {showNum(can)}</Trans>
              </button>
            )}
          </p>
        );
      })}
      {gone?.slice(0, 6).map((l) => (
        <p key={l.id} className="flex items-center gap-3 border-b border-line py-2 text-head">
          <Tier n={l.tier} />
          <b>{l.order}</b>
          <span className="min-w-0 flex-1 truncate text-mute">{l.customer}</span>
          <span className="whitespace-nowrap">{t`${showNum(l.at.allocated)} allocated`}</span>
          <button
            className="btn"
            disabled={release.busy}
            onClick={() => release.run({ ask: { lines: [{ line: l.id, qty: 0, seen: l.version }], print: true } })}
          >
            <Trans>Release {showNum(l.at.allocated)}</Trans>
          </button>
        </p>
      ))}
      {!may('allocate') && <p className="pt-1 text-mute">{t`A coordinator allocates it: it stands on Today.`}</p>}
    </section>
  );
}
