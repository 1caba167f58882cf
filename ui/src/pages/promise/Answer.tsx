import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import type { UseQueryResult } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import type { LineView, Outcome, Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { can } from '../../parts/asides';
import { Day, OrderLink, Tier } from '../../parts/bits';
import { showDay, showNum } from '../../base/format';
import { useList } from '../../parts/list';
import { MakeRoom } from '../../parts/MakeRoom';
import { inWords, OutlookChart, OutlookChoice, OutlookTable } from '../../parts/OutlookChart';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { Sentence } from './Sentence';
import { Ways } from './Ways';

type A = Schemas['PromiseAnswer'];
type Way = Schemas['PromiseWay'];
type Result = UseQueryResult<A, Error>;

export function Answer({ answer, asked }: { answer: Result; asked: { line?: number } }) {
  const a = answer.data;
  const [kind, setKind] = useState<Way['kind']>('by');
  const [house, setHouse] = useState('');
  const [day, setDay] = useState('');
  const [table, setTable] = useState(false);
  const [room, setRoom] = useState(false);
  const { may } = useSigned();
  const go = useNavigate();
  const way = a?.ways.find((w) => w.kind === kind) ?? a?.ways[0];
  const shown = a?.houses.find((h) => h.warehouse === house) ?? a?.houses[0];
  const focus = shown?.days.find((d) => d.day === day) ?? shown?.days.find((d) => d.day === a?.ship_by) ?? shown?.days[0];
  const move = (by: number) => {
    const days = shown?.days ?? [];
    const i = days.findIndex((d) => d.day === focus?.day);
    const next = days[Math.max(0, Math.min(days.length - 1, i + by))];
    if (next) setDay(next.day);
  };
  const tight = !!a?.ways.find((w) => w.kind === 'by' && w.by_wish < a.qty);
  useKey('m', t`Make room among the promises`, () => setRoom(true), { enabled: tight && may('make room') });
  useKey('ArrowRight, l', t`Next day of the picture`, () => move(1), { repeat: true });
  useKey('ArrowLeft, h', t`Previous day of the picture`, () => move(-1), { repeat: true });
  return (
    <Page
      aside={a && shown && focus ? <DayAside a={a} house={shown} day={focus} line={asked.line} /> : <span />}
      tray={a && way && <Tray a={a} way={way} line={asked.line} />}
    >
      <Sentence a={a} />
      <Load of={answer}>
        {(a) => (
          <>
            {a.too_soon && (
              <p className="late mb-2">
                <Trans>
                  Nothing that leaves from today on is there by {showDay(a.wished)}: what follows leaves as early as it can.
                </Trans>
              </p>
            )}
            <Ways
              a={a}
              way={way}
              choose={setKind}
              room={tight && may('make room') ? { ask: demand(a, asked.line), open: () => setRoom(true) } : undefined}
            />
            <div className="mt-3 flex items-center gap-3">
              <h2 className="shrink-0 text-lead">
                <Trans>Outlook at {shown?.name || shown?.warehouse}</Trans>
              </h2>
              {shown && (
                <span className="truncate text-mute">
                  <Trans>
                    on hand {showNum(shown.on_hand)} · free {showNum(shown.free)}
                  </Trans>
                  {shown.promised > 0 && t` · promised ${showNum(shown.promised)}`}
                  {shown.lead_day && t` · no limit from ${showDay(shown.lead_day)}`}
                </span>
              )}
              {shown?.over && (
                <span className="late">
                  <Trans>too much is promised from {showDay(shown.over)}</Trans>
                </span>
              )}
              <OutlookChoice houses={a.houses} shown={shown} choose={setHouse} table={table} flip={() => setTable(!table)} />
            </div>
            {shown &&
              (table ? (
                <OutlookTable house={shown} />
              ) : (
                <OutlookChart house={shown} qty={a.qty} shipBy={a.ship_by} focus={focus?.day ?? ''} setFocus={setDay} />
              ))}
            {shown && !table && <Legend words={inWords(shown, a.qty)} qty={a.qty} />}
            {room && (
              <MakeRoom
                ask={demand(a, asked.line)}
                order={!asked.line && a.customer ? { wanted: a.wished, service: a.service } : undefined}
                close={() => setRoom(false)}
                made={(o) => {
                  const entered = o.documents?.find((d) => d.kind === 'order');
                  if (entered) void go({ to: '/orders/$number', params: { number: entered.number } });
                }}
              />
            )}
          </>
        )}
      </Load>
    </Page>
  );
}

function Legend({ words, qty }: { words: string; qty: number }) {
  return (
    <>
      <p className="flex flex-wrap items-center gap-x-4 gap-y-1 text-mute">
        <span className="flex items-center gap-1.5">
          <Trans>
            <span className="h-2.5 w-3.5 bg-(--st-allocated)" /> can be promised
          </Trans>
        </span>
        <span className="flex items-center gap-1.5">
          <Trans>
            <span className="hatch h-2.5 w-3.5 bg-(--st-promised)" /> available, but promised later
          </Trans>
        </span>
        <span className="flex items-center gap-1.5">
          <Trans>
            <span className="h-[2px] w-4 bg-ink" /> projected
          </Trans>
        </span>
        <span className="flex items-center gap-1.5">
          <Trans>
            <span className="w-4 border-t-2 border-dashed border-focus" /> asked: {showNum(qty)}
          </Trans>
        </span>
      </p>
      <p className="mt-2 max-w-[880px] text-mute">{words}</p>
    </>
  );
}

/** What room would be made for. */
const demand = (a: A, line: number | undefined): Schemas['RoomAsk'] => ({
  line,
  sku: a.sku,
  warehouse: a.warehouse,
  qty: a.qty,
  by: a.ship_by,
  customer: a.customer,
});

function DayAside({ a, house, day, line }: { a: A; house: Schemas['HouseOutlook']; day: Schemas['OutlookDay']; line?: number }) {
  const before = house.days.filter((d) => d.day <= day.day);
  return (
    <>
      <section className="pb-3">
        <h2 className="text-lead">{showDay(day.day)}</h2>
        <p className="mb-2 text-mute">
          {day.atp.unlimited
            ? t`More can be bought by then: there is no limit.`
            : t`${showNum(day.atp.units)} can still be promised for this day.`}
        </p>
        <table className="grid-table" aria-label={t`What ${showDay(day.day)} rests on`}>
          <thead>
            <tr>
              <th>{t`Rests on`}</th>
              <th className="num">{t`Units`}</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <td>{t`On hand, free`}</td>
              <td className="num">{showNum(house.free)}</td>
            </tr>
            {before.flatMap((d) => [
              ...d.receipts.map((r) => (
                <tr key={`r${r.ref}${d.day}`}>
                  <td>
                    <Link to="/inbound" search={{ q: r.ref }} className="ref">
                      {r.ref}
                    </Link>
                    , {showDay(d.day)}
                  </td>
                  <td className="num">+{showNum(r.qty)}</td>
                </tr>
              )),
              ...d.commitments.map((c) => (
                <tr key={`c${c.order}/${c.line}${d.day}`}>
                  <td className="max-w-[200px] truncate" title={c.customer}>
                    <OrderLink number={c.order} /> <span className="text-mute">{c.customer}</span>, {showDay(d.day)}
                  </td>
                  <td className="num">−{showNum(c.qty)}</td>
                </tr>
              )),
            ])}
            <tr>
              <td className="font-semibold">{t`Left that day`}</td>
              <td className="num font-semibold">{showNum(day.left)}</td>
            </tr>
          </tbody>
        </table>
      </section>
      {a.overdue.length > 0 && (
        <section className="border-t border-line py-3">
          <h2 className="text-lead">{t`Late arrival`}</h2>
          {a.overdue.map((o) => (
            <p key={o.ref + o.warehouse}>
              <span className="late">
                <Trans>
                  {o.ref}, {showNum(o.qty)} at {o.warehouse}, was due {showDay(o.due)}.
                </Trans>
              </span>{' '}
              <span className="text-mute">{t`Not counted until it has a new date.`}</span>
            </p>
          ))}
        </section>
      )}
      <LinesToPromise lines={a.lines} line={line} sku={a.sku} />
    </>
  );
}

/** The open lines that want the item: choosing one asks for what it lacks. */
function LinesToPromise({ lines, line, sku }: { lines: LineView[]; line?: number; sku: string }) {
  const [, set] = useList();
  return (
    <section className="border-t border-line py-3">
      <h2 className="mb-1 text-lead">{t`Promise it on`}</h2>
      {lines.length === 0 && (
        <p className="text-mute">
          <Trans>No open line wants {sku}.</Trans>
        </p>
      )}
      {lines.slice(0, 12).map((l) => (
        <label key={l.id} className="flex cursor-pointer items-start gap-2 py-1">
          <input
            type="radio"
            name="line"
            className="radio radio-xs mt-0.5"
            checked={l.id === line}
            onChange={() => set({ line: String(l.id), qty: String(l.at.open), warehouse: l.warehouse })}
          />
          <span className="min-w-0 flex-1">
            <span className="block truncate" title={l.customer}>
              <span className="font-semibold">{l.order}</span>{' '}
              <span className="text-mute">
                <Trans>line {l.line}</Trans>
              </span>{' '}
              {l.customer}
            </span>
            <span className="flex items-center gap-1.5 text-mute">
              <Trans>
                <Tier n={l.tier} /> {showNum(l.at.open)} open, leaves by <Day iso={l.ship_by} late={l.late} />
              </Trans>
            </span>
          </span>
        </label>
      ))}
    </section>
  );
}

function Tray({ a, way, line }: { a: A; way: Way; line?: number }) {
  const { may } = useSigned();
  const promise = useCommand('/api/promise');
  const l = a.lines.find((x) => x.id === line);
  const why = !may('promise')
    ? t`Promising is for coordinators and sales`
    : !l
      ? t`Choose at the right on which order line`
      : way.parts.length === 0
        ? t`There is nothing to promise`
        : can(l, 'promise').qty < a.qty - way.short
          ? t`${l.order} line ${l.line} has only ${showNum(l.at.open)} open`
          : '';
  const go = () => l && promise.run({ ask: { lines: [{ line: l.id, seen: l.version, parts: way.parts }] } });
  const make = useMake(a, way);
  return (
    <>
      <span className="font-semibold">
        {way.parts.map((p, i) => (
          <span key={p.day + p.warehouse}>
            {i > 0 && ' + '}
            <Trans>
              {showNum(p.qty)} leaving {showDay(p.day)}
            </Trans>
            {p.warehouse !== a.warehouse && t` from ${p.warehouse}`}
          </span>
        ))}
        {way.parts.length === 0 && t`Nothing can be promised`}
      </span>
      {way.arrives.length > 0 && (
        <span className="opacity-80">
          <Trans>there {way.arrives.map((d) => showDay(d)).join(' and ')}</Trans>
        </span>
      )}
      <span className="ml-auto" />
      <Act
        keys="o"
        does={a.customer ? t`New order for ${a.name ?? a.customer}, as shown` : t`Begin a new order`}
        look="quiet"
        why={make.why}
        off={!make.can}
        run={make.order}
      >
        {t`New order`}
      </Act>
      <Act
        keys="q"
        does={a.customer ? t`Quote for ${a.name ?? a.customer}, as shown` : t`Begin a quote`}
        look="quiet"
        off={!make.can}
        run={make.quote}
      >
        {t`Quote`}
      </Act>
      <Act keys="enter" does={t`Promise it on the chosen line`} why={why} off={promise.busy} run={go}>
        <Trans>Promise on {l ? t`${l.order} line ${l.line}` : t`a line`}</Trans>
      </Act>
    </>
  );
}

/** Makes an order or a quote of the way that was chosen, as it is shown; for nobody in particular it is begun. */
function useMake(a: A, way: Way) {
  const { may } = useSigned();
  const go = useNavigate();
  const to = (kind: 'order' | 'quote') => (o: Outcome) => {
    const made = o.documents?.find((d) => d.kind === kind);
    if (made) void go({ to: `/${kind}s/$number`, params: { number: made.number } });
  };
  const enter = useCommand('/api/enter-order', to('order'));
  const quote = useCommand('/api/make-quote', to('quote'));
  const draft: Schemas['Draft'] = {
    customer: a.customer,
    service: a.service,
    wanted: a.wished,
    lines: (way.from.length > 1 ? way.from : [{ warehouse: way.from[0]?.warehouse ?? a.warehouse, qty: a.qty }]).map((f) => ({
      sku: a.sku,
      qty: f.qty,
      warehouse: f.warehouse,
      how: way.parts.length === 0 ? 'none' : way.kind === 'whole' ? 'whole' : 'split',
      shown: way.parts.filter((p) => p.warehouse === f.warehouse),
    })),
  };
  const begin = () =>
    void go({
      to: '/entry',
      search: { sku: a.sku, qty: String(a.qty), wished: a.wished, service: a.service, warehouse: a.warehouse },
    });
  const busy = enter.busy || quote.busy;
  return {
    can: may('enter an order') && !busy,
    why: may('enter an order') ? '' : t`Entering orders is for sales and coordinators.`,
    order: () => (a.customer ? enter.run({ ask: draft }) : begin()),
    quote: () => (a.customer ? quote.run({ ask: { draft } }) : begin()),
  };
}
