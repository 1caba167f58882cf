import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { keepPreviousData, queryOptions, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { ask, client, type Outcome, type Schemas } from '../api/call';
import { useSigned } from '../base/session';
import { OrderLink, Tier } from './bits';
import { Dialog } from './Dialog';
import { plural, showDay, showNum } from '../base/format';
import { StandingFacts } from './StandingOf';
import { useCommand } from './useCommand';
import { say } from '../base/say';

type Ask = Schemas['RoomAsk'];
type Way = Schemas['RoomWay'];
type Entry = Schemas['RoomEntry'];

/** Asks which promises to others could be postponed. */
export const roomFor = (body: Ask) =>
  queryOptions({
    queryKey: ['room', body],
    queryFn: ({ signal }) => ask(client.POST('/api/room', { body, signal })),
    retry: false,
  });

const entryKey = (e: { line: number; from: string }) => `${e.line} ${e.from}`;

/**
 * Which promises to others could be put back so that a demand fits; before and after for everyone touched. If
 * an order is to come of it, it is entered in the same step.
 */
export function MakeRoom({
  ask: demand,
  order,
  close,
  made,
}: {
  ask: Ask;
  order?: Schemas['RoomOrder'];
  close: () => void;
  made?: (o: Outcome) => void;
}) {
  const { may } = useSigned();
  const [fixed, setFixed] = useState<number[]>([]);
  const [hand, setHand] = useState<Record<string, string>>({}); // the day to which each chosen promise is put back
  const [kind, setKind] = useState('number');
  const body: Ask = { ...demand, fixed };
  const plain = useQuery({
    ...roomFor(body),
    placeholderData: keepPreviousData,
  });
  const v = plain.data;
  const chosen = (v?.candidates ?? [])
    .filter((c) => hand[entryKey(c)])
    .map((c) => ({ line: c.line, from: c.from, qty: c.qty, seen: c.seen, to: hand[entryKey(c)] ?? '' }));
  const byHand = useQuery({
    queryKey: ['room', body, chosen],
    queryFn: ({ signal }) => ask(client.POST('/api/room', { body: { ...body, chosen }, signal })),
    enabled: kind === 'chosen' && chosen.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const way = kind === 'chosen' ? byHand.data?.ways.find((w) => w.kind === 'chosen') : v?.ways.find((w) => w.kind === kind);
  const make = useCommand('/api/make-room', (o) => {
    close();
    made?.(o);
  });
  const moves = (way?.moves ?? []).filter((m) => !m.with);
  const can = may('make room') && !!way?.enough && moves.length > 0 && !make.busy && !plain.isFetching && !byHand.isFetching;
  const enters = !!order && may('enter an order');
  const run = (enter: boolean) =>
    v &&
    can &&
    make.run({
      ask: {
        ...body,
        chosen: moves.map(({ line, from, to, qty, seen }) => ({ line, from, to, qty, seen })),
        seen: v.version,
        order: enter ? order : undefined,
      },
    });
  return (
    <Dialog
      title={v ? t`Make room for ${showNum(v.qty)} of ${v.sku} by ${showDay(v.by)}` : t`Make room`}
      close={close}
      wide="more"
    >
      {plain.error && <p className="late">{plain.error.message}</p>}
      {v && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void run(enters);
          }}
        >
          <div className={v.standing ? 'grid grid-cols-[minmax(0,1fr)_250px] gap-6' : ''}>
            <div>
              <p className="text-mute">
                <Trans>
                  {v.item} at {v.warehouse}
                </Trans>
                {v.for && t` for ${v.for}`}
                {v.order && `, ${v.order}`}
                <Trans>
                  : {v.there.unlimited ? t`any number` : showNum(v.there.units)} can be promised for that day as it is.
                </Trans>
              </p>
              {v.fits && <p className="mt-3 font-semibold">{t`It fits: nothing has to be postponed.`}</p>}
              {!v.possible && <p className="late mt-3">{say(v.why)}</p>}
              {!v.fits && v.possible && (
                <div className="mt-3 flex flex-wrap gap-2" role="radiogroup" aria-label={t`How`}>
                  {[...v.ways, { kind: 'chosen' as const, title: t`By hand` }].map((w) => (
                    <label
                      key={w.kind}
                      className={
                        'min-w-[128px] flex-1 cursor-pointer rounded-box border px-3 py-1.5 ' +
                        (kind === w.kind ? 'border-[1.5px] border-focus bg-focus-ground' : 'border-line')
                      }
                    >
                      <span className="flex items-center gap-2 font-semibold">
                        <input
                          type="radio"
                          name="way"
                          className="radio radio-xs"
                          checked={kind === w.kind}
                          onChange={() => setKind(w.kind)}
                        />
                        {w.title}
                      </span>
                      <span className="block text-small text-mute">{'lines' in w ? summary(w) : t`choose among them`}</span>
                    </label>
                  ))}
                </div>
              )}
            </div>
            {v.standing && (
              <section>
                <h3 className="mb-1 font-head font-semibold">{v.standing.name}</h3>
                <StandingFacts s={v.standing} />
              </section>
            )}
          </div>
          {!v.fits && v.possible && (
            <div className="mt-3 max-h-[38vh] overflow-y-auto" aria-live="polite">
              {kind === 'chosen' ? (
                <Candidates
                  rows={v.candidates}
                  hand={hand}
                  set={setHand}
                  fixed={fixed}
                  lacking={way && !way.enough ? way.lacking : undefined}
                />
              ) : (
                way && <Moves way={way} fix={(line) => setFixed([...fixed, line])} />
              )}
            </div>
          )}
          {fixed.length > 0 && (
            <p className="mt-2 text-mute">
              <Trans>{plural(fixed.length, 'line')} may not be postponed.</Trans>{' '}
              <button type="button" className="underline" onClick={() => setFixed([])}>
                {t`All may`}
              </button>
            </p>
          )}
          <div className="mt-4 flex items-center justify-end gap-2">
            {way && !v.fits && (
              <span className="mr-auto text-mute">
                {kind === 'chosen'
                  ? way.enough
                    ? t`This is enough.`
                    : t`${showNum(way.lacking)} still lacking.`
                  : way.proved
                    ? t`Proven minimum.`
                    : t`The best that was found; none does less than ${showNum(way.bound)}.`}
              </span>
            )}
            <button type="button" className="btn btn-sm" onClick={close}>
              {v.fits || !v.possible ? t`Close` : t`Cancel`}
            </button>
            {!v.fits && v.possible && (
              <>
                {enters && (
                  <button type="button" className="btn btn-sm" disabled={!can} onClick={() => run(false)}>
                    <Trans>Postpone {plural(way?.lines ?? 0, 'line')}</Trans>
                  </button>
                )}
                {!may('make room') && <span className="text-mute">{t`Making room is for a coordinator.`}</span>}
                <button className="btn btn-sm btn-primary" disabled={!can}>
                  {enters ? t`Postpone and enter the order` : t`Postpone ${plural(way?.lines ?? 0, 'line')}`}
                </button>
              </>
            )}
          </div>
        </form>
      )}
    </Dialog>
  );
}

/** Who is touched by making room, in few words. */
export function summary(w: Way): string {
  const late = w.makes_late ? t`, ${showNum(w.makes_late)} late` : '';
  return t`${plural(w.lines, 'line')} of ${plural(w.customers, 'customer')}, ${plural(w.days, 'day')}${late}`;
}

function Who({ e }: { e: Entry }) {
  return (
    <>
      <td>
        <Tier n={e.tier} />
      </td>
      <td className="max-w-[240px] truncate" title={e.customer}>
        <OrderLink number={e.order} /> <span className="text-mute">{e.customer}</span>
      </td>
      <td className="num">{showNum(e.qty)}</td>
    </>
  );
}

function Moves({ way, fix }: { way: Way; fix: (line: number) => void }) {
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th>{t`Tier`}</th>
          <th>{t`Postponed`}</th>
          <th className="num">{t`Units`}</th>
          <th>{t`Promised`}</th>
          <th>{t`New date`}</th>
          <th>{t`Ship by`}</th>
          <th aria-label={t`Keep`} />
        </tr>
      </thead>
      <tbody>
        {way.moves.map((m) => (
          <tr key={entryKey(m)}>
            <Who e={m} />
            <td>{showDay(m.from)}</td>
            <td className={m.late ? 'late' : ''}>
              <Trans>
                {showDay(m.to)} · {plural(m.days, 'day')} later
              </Trans>
              {m.late && ', late'}
            </td>
            <td>{showDay(m.ship_by)}</td>
            <td className="text-right">
              {m.with ? (
                <span className="text-mute">{t`goes with its order`}</span>
              ) : (
                <button type="button" className="btn btn-xs btn-pill" onClick={() => fix(m.line)}>
                  {t`Exclude`}
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Candidates({
  rows,
  hand,
  set,
  fixed,
  lacking,
}: {
  rows: Entry[];
  hand: Record<string, string>;
  set: (h: Record<string, string>) => void;
  fixed: number[];
  lacking: number | undefined;
}) {
  return (
    <>
      {lacking !== undefined && (
        <p className="late">
          <Trans>With these, {showNum(lacking)} are still short.</Trans>
        </p>
      )}
      <table className="grid-table">
        <thead>
          <tr>
            <th aria-label={t`Postpone`} />
            <th>{t`Tier`}</th>
            <th>{t`Could be postponed`}</th>
            <th className="num">{t`Units`}</th>
            <th>{t`Promised`}</th>
            <th>{t`New date`}</th>
            <th>{t`Ship by`}</th>
          </tr>
        </thead>
        <tbody>
          {rows
            .filter((r) => !fixed.includes(r.line))
            .map((r) => {
              const k = entryKey(r);
              const to = hand[k] ?? '';
              return (
                <tr key={k}>
                  <td>
                    <input
                      type="checkbox"
                      className="checkbox checkbox-xs"
                      aria-label={t`Postpone ${r.order}`}
                      checked={to !== ''}
                      onChange={(e) => set({ ...hand, [k]: e.target.checked ? (r.to_days.at(-1) ?? '') : '' })}
                    />
                  </td>
                  <Who e={r} />
                  <td>{showDay(r.from)}</td>
                  <td>
                    <select
                      className="select select-sm"
                      aria-label={t`Day for ${r.order}`}
                      value={to}
                      onChange={(e) => set({ ...hand, [k]: e.target.value })}
                    >
                      <option value="">{t`stays`}</option>
                      {r.to_days.map((d) => (
                        <option key={d} value={d}>
                          {showDay(d)}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td>{showDay(r.ship_by)}</td>
                </tr>
              );
            })}
        </tbody>
      </table>
    </>
  );
}
