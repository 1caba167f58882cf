import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams } from '@tanstack/react-router';
import { useEffect, useRef, useState } from 'react';
import { questions } from '../../base/questions';
import { type LineView, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { can, ItemAside, shipRules } from '../../parts/asides';
import { Day, DocumentLink, Fault, ItemLink, Key, PageHead, Tier } from '../../parts/bits';
import { ReasonDialog } from '../../parts/Dialog';
import { plural, showDay, showMoney, showNum, showTime } from '../../base/format';
import { JourneyBar, tellCounts } from '../../parts/JourneyBar';
import { MakeRoom } from '../../parts/MakeRoom';
import { Quantity } from '../../parts/Quantity';
import { RecallDialog } from '../../parts/RecallDialog';
import { useRows } from '../../parts/rows';
import { Load } from '../../parts/states';
import { TakeBack } from '../../parts/TakeBack';
import { useCommand } from '../../parts/useCommand';
import { WhyAside } from '../../parts/Why';
import { say } from '../../base/say';
import { HoldBox } from '../../parts/HoldBox';
import { TrailLink } from '../../parts/TrailLink';

type Order = Schemas['OrderView'];

export function OrderPage() {
  const number: string = useParams({ strict: false }).number ?? '';
  const order = useQuery({
    ...questions.order(number),
  });
  const lines = order.data?.lines ?? [];
  const focus = useRows(lines, (l) => String(l.id));
  return (
    <Page
      aside={
        focus.row ? (
          <>
            <ItemAside sku={focus.row.sku} warehouse={focus.row.warehouse} />
            <WhyAside line={focus.row.id} />
          </>
        ) : (
          <span />
        )
      }
    >
      <Load of={order}>{(o) => <Body o={o} focus={focus} />}</Load>
    </Page>
  );
}

function Body({ o, focus }: { o: Order; focus: ReturnType<typeof useRows<LineView>> }) {
  return (
    <>
      <PageHead
        title={o.number}
        sub={
          <span className="flex items-center gap-2">
            <Trans>
              <Link to="/customers/$number" params={{ number: o.customer_code }} className="ref text-ink">
                {o.customer}
              </Link>
              <Tier n={o.tier} /> requested <Day iso={o.wanted} late={o.late} />
            </Trans>
            {o.not_before && <Trans>· leaves not before {showDay(o.not_before)}</Trans>}
            {o.finished && <span className="font-semibold text-ink">{t`· finished`}</span>}
          </span>
        }
      >
        <span className="font-semibold">{showMoney(o.value_minor, o.currency)}</span>
        <JourneyBar at={o.at} width={180} of={o.number} />
      </PageHead>
      <Actions o={o} />
      {o.data_fault && (
        <p className="mb-2">
          <Fault>{o.data_fault}</Fault>
        </p>
      )}
      {o.hold_notes.map((h) => (
        <HoldNote key={h.kind} order={o.number} h={h} />
      ))}
      {o.holds.length > 0 && o.at.released + o.at.picked + o.at.packed > 0 && <OnTheFloor order={o.number} at={o.at} />}
      <Lines o={o} focus={focus} />
      <div className="mt-5 grid grid-cols-[1fr_1fr] gap-8">
        <section>
          <h2 className="mb-1 text-lead">{t`Ship to`}</h2>
          <p>
            {o.ship_to.name}, {o.ship_to.street}, {o.ship_to.city} {o.ship_to.postcode}, {o.ship_to.country}
          </p>
          <p className="text-mute">
            {o.service && `${o.service} · `}
            {o.terms && `${o.terms} · `}
            {shipRules[o.ship_rule]}
            {o.channel && ` · ${o.channel}`}
            {o.customer_ref && t` · customer’s order number ${o.customer_ref}`}
          </p>
          {o.note && <p className="mt-2">“{o.note}”</p>}
          {o.messages.length > 0 && <h2 className="mt-4 mb-1 text-lead">{t`Ready to be sent`}</h2>}
          {o.messages.map((m) => (
            <Message key={m.at + m.subject} m={m} />
          ))}
          <h2 className="mt-4 mb-1 text-lead">{t`Documents`}</h2>
          {o.documents.length === 0 && (
            <p className="text-mute">{t`None yet. A release makes a pick list, packing makes a shipment.`}</p>
          )}
          {o.documents.map((d) => (
            <p key={d.number}>
              <DocumentLink kind={d.kind} number={d.number} />{' '}
              <span className="text-mute">
                {d.kind}, {d.state}
              </span>
            </p>
          ))}
        </section>
        <Trail number={o.number} />
      </div>
    </>
  );
}

/** A message to the customer that was drafted from what happened. */
function Message({ m }: { m: Schemas['MessageView'] }) {
  const { tell } = useToasts();
  const copy = () =>
    navigator.clipboard.writeText(`${m.subject}\n\n${m.body}`).then(() => tell({ text: t`The message is copied.` }));
  return (
    <details className="mb-2">
      <summary className="cursor-pointer">
        {m.subject}{' '}
        <span className="text-mute">
          {m.who}, {showTime(m.at)}
        </span>
      </summary>
      <p className="mt-1 rounded-box border border-line bg-card p-2 whitespace-pre-line">{m.body}</p>
      <p className="mt-1 flex gap-2">
        <button className="btn btn-xs btn-pill" onClick={() => void copy()}>
          {t`Copy it`}
        </button>
        {m.to && (
          <a
            className="btn btn-xs btn-pill"
            href={`mailto:${m.to}?subject=${encodeURIComponent(m.subject)}&body=${encodeURIComponent(m.body)}`}
          >
            <Trans>Write to {m.to}</Trans>
          </a>
        )}
      </p>
    </details>
  );
}

const dropReasons = [
  t`The customer no longer wants it`,
  t`No longer made`,
  t`Replaced by another item`,
  t`The remainder is too small to send`,
];

function Actions({ o }: { o: Order }) {
  const { may } = useSigned();
  const [dialog, setDialog] = useState<'drop' | 'hold' | 'recall' | ''>('');
  const allocate = useCommand('/api/allocate');
  const back = useCommand('/api/give-back');
  const release = useCommand('/api/release');
  const drop = useCommand('/api/drop');
  const reopen = useCommand('/api/reopen');
  const promise = useCommand('/api/promise');
  const hold = useCommand('/api/hold');
  const orders = [{ number: o.number, seen: o.version }];
  const go = useNavigate();
  const busy = allocate.busy || back.busy || release.busy || drop.busy || reopen.busy || promise.busy || hold.busy;
  const acts = [
    { verb: 'allocate', text: t`Allocate what is free`, k: 'a', go: () => allocate.run({ ask: { orders } }) },
    { verb: 'release', text: t`Release`, k: 'r', go: () => release.run({ ask: { orders } }) },
    { verb: 'give back', text: t`Give back`, k: 'b', go: () => back.run({ ask: { orders } }) },
    { verb: 'promise', text: t`Promise the rest`, k: 'p', go: () => promise.run({ ask: { orders } }) },
    { verb: 'drop', text: t`Drop the remainder`, k: 'd', go: () => setDialog('drop') },
    { verb: 'reopen', text: t`Reopen`, k: 'o', go: () => reopen.run({ ask: { orders } }) },
  ];
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2">
      {acts.map((a) => {
        const c = can(o, a.verb);
        if ((a.verb === 'reopen' || a.verb === 'give back' || a.verb === 'promise') && c.qty === 0) return null;
        return (
          <OrderAct
            key={a.verb}
            text={a.text}
            k={a.k}
            go={a.go}
            qty={c.qty}
            why={may(a.verb) ? say(c.why) : t`Your role may not do this`}
            on={may(a.verb) && c.qty > 0 && !busy}
            busy={may(a.verb) && busy}
            main={a.verb === 'allocate' || a.verb === 'release'}
          />
        );
      })}
      {may('change an order') && (
        <OrderAct text={t`Change`} k="c" go={() => void go({ to: '/entry', search: { order: o.number } })} on={!busy} />
      )}
      {!o.finished && !o.holds.includes('coordinator') && may('hold') && (
        <OrderAct text={t`Hold`} k="h" go={() => setDialog('hold')} on={!busy} />
      )}
      {inHouse(o.at) > 0 && may('recall') && (
        <OrderAct text={t`Recall…`} k="l" go={() => setDialog('recall')} qty={inHouse(o.at)} on={!busy} />
      )}
      <Refusals
        of={acts
          .filter(
            (a) =>
              (a.verb === 'allocate' || a.verb === 'release' || a.verb === 'drop') && (can(o, a.verb).qty === 0 || !may(a.verb)),
          )
          .map((a) => [a.text, may(a.verb) ? say(can(o, a.verb).why) : t`your role may not do this`])}
      />
      {dialog === 'drop' && (
        <ReasonDialog
          title={t`Drop the ${showNum(can(o, 'drop').qty)} open units of ${o.number}?`}
          label={t`Why? It stays in the trail; the units can be reopened later.`}
          verb={t`Drop them`}
          suggestions={dropReasons}
          close={() => setDialog('')}
          go={(reason) => {
            setDialog('');
            drop.run({ ask: { orders }, reason });
          }}
        />
      )}
      {dialog === 'recall' && <RecallDialog order={o.number} first="dropped" close={() => setDialog('')} />}
      {dialog === 'hold' && (
        <ReasonDialog
          title={t`Hold ${o.number}?`}
          label={t`Why? Everybody who sees the order sees this. It will neither be released nor leave the dock.`}
          verb={t`Hold it`}
          suggestions={[t`The customer has cancelled`, t`Waiting for the customer’s answer`, t`Address to be confirmed`]}
          close={() => setDialog('')}
          go={(note) => {
            setDialog('');
            hold.run({ ask: { order: o.number, kind: 'coordinator', note } });
          }}
        />
      )}
    </div>
  );
}

/** How many units stand in a house: what is open has not begun, and what has left cannot be recalled. */
const inHouse = (at: Order['at']) => at.allocated + at.released + at.picked + at.packed;

/** What cannot be done, and why, as text. */
function Refusals({ of }: { of: [string, string][] }) {
  const said = of.filter(([, why]) => why !== '');
  if (said.length === 0) return null;
  return (
    <p className="w-full text-small text-mute">
      {said.map(([what, why], i) => (
        <span key={what}>
          {i > 0 && ' · '}
          {what}: {why}
        </span>
      ))}
    </p>
  );
}

function OrderAct({
  text,
  k,
  go,
  qty,
  why,
  on,
  busy,
  main,
}: {
  text: string;
  k: string;
  go: () => void;
  qty?: number;
  why?: string;
  on: boolean;
  busy?: boolean; // something else is being done: a key that is pressed meanwhile waits for it
  main?: boolean;
}) {
  const waits = useRef(false);
  useKey(
    k,
    text,
    () => {
      if (on) go();
      else waits.current = true;
    },
    { enabled: on || busy },
  );
  useEffect(() => {
    if (!waits.current || busy) return;
    waits.current = false;
    if (on) go();
  }, [busy, on, go]);
  return (
    <button
      className={`btn btn-sm ${main && on ? 'btn-primary' : ''}`}
      disabled={!on}
      onClick={go}
      aria-description={on ? undefined : why}
    >
      {text}
      {qty ? ` · ${showNum(qty)}` : ''} <Key>{k.toUpperCase()}</Key>
    </button>
  );
}

function HoldNote({ order, h }: { order: string; h: Schemas['HoldView'] }) {
  const lift = useCommand('/api/lift');
  return <HoldBox of={h} lift={() => lift.run({ ask: { order, kind: h.kind as 'credit' } })} busy={lift.busy} />;
}

/** What is on its way through the house while the order is on hold would be picked or packed all the same: the way to stop it. */
function OnTheFloor({ order, at }: { order: string; at: Order['at'] }) {
  const { may } = useSigned();
  const [asked, setAsked] = useState(false);
  return (
    <div className="alert note-box mb-3 flex items-center gap-3">
      <span className="late">{t`Still on the floor`}</span>
      <span className="flex-1">
        <Trans>
          {plural(at.released + at.picked + at.packed, 'unit')} of it, which may be picked and packed although the order is on
          hold.
        </Trans>
      </span>
      {may('recall') ? (
        <button className="btn btn-sm" onClick={() => setAsked(true)}>
          {t`Recall`} · {showNum(at.released + at.picked + at.packed)}
        </button>
      ) : (
        <span className="text-mute">{t`For a coordinator.`}</span>
      )}
      {asked && <RecallDialog order={order} first="allocated" close={() => setAsked(false)} />}
    </div>
  );
}

function Lines({ o, focus }: { o: Order; focus: ReturnType<typeof useRows<LineView>> }) {
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th className="num">{t`Line`}</th>
          <th>{t`Ship by`}</th>
          <th>{t`Item`}</th>
          <th>{t`Warehouse`}</th>
          <th className="num">{t`Ordered`}</th>
          <th className="num">{t`Price`}</th>
          <th className="num">{t`Free`}</th>
          <th>{t`Next arrival`}</th>
          <th>{t`Progress`}</th>
          <th aria-label={t`What can be done`} />
        </tr>
      </thead>
      <tbody>
        {o.lines.map((l) => (
          <LineRow
            key={l.id}
            l={l}
            currency={o.currency}
            customer={o.customer_code}
            focused={focus.id === String(l.id)}
            focus={() => focus.setFocus(String(l.id))}
          />
        ))}
      </tbody>
    </table>
  );
}

function LineRow({
  l,
  currency,
  customer,
  focused,
  focus,
}: {
  l: LineView;
  currency: string;
  customer: string;
  focused: boolean;
  focus: () => void;
}) {
  return (
    <>
      <tr data-row data-focus={focused} onClick={focus}>
        <td className="num">{l.line}</td>
        <td>
          <Day iso={l.ship_by} late={l.late} />
        </td>
        <td className="max-w-[178px] truncate" title={l.item}>
          <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
        </td>
        <td>{l.warehouse}</td>
        <td className="num">{showNum(l.at.ordered)}</td>
        <td className="num">{l.data_fault ? <Fault>{l.data_fault}</Fault> : showMoney(l.price_minor, currency)}</td>
        <td className="num" title={t`On hand ${l.on_hand}, free elsewhere ${l.elsewhere}`}>
          {showNum(l.free)}
          {l.elsewhere > 0 && <span className="text-mute"> +{showNum(l.elsewhere)}</span>}
        </td>
        <td>
          {l.next ? (
            <>
              {showNum(l.next.qty)}{' '}
              {l.next.overdue ? (
                <span className="late">
                  <Trans>{showDay(l.next.due)} · overdue</Trans>
                </span>
              ) : (
                showDay(l.next.due)
              )}
            </>
          ) : (
            <span className="text-mute">{l.at.open > 0 ? t`no supply due` : ''}</span>
          )}
        </td>
        <td>
          <JourneyBar at={l.at} of={`Line ${l.line}`} />
        </td>
        <td className="text-right">
          <LineAct l={l} />
        </td>
      </tr>
      {focused && (
        <tr>
          <td />
          <td colSpan={9} className="!h-auto !py-2 !whitespace-normal">
            <LineDetail l={l} customer={customer} />
          </td>
        </tr>
      )}
    </>
  );
}

/** The one thing that most likely comes next on a line. */
function LineAct({ l }: { l: LineView }) {
  const { may } = useSigned();
  const allocate = useCommand('/api/allocate');
  const c = can(l, 'allocate');
  if (l.at.open === 0 || !may('allocate')) return null;
  return (
    <button
      className="btn btn-xs btn-pill"
      disabled={c.qty === 0 || allocate.busy}
      onClick={(e) => {
        e.stopPropagation();
        allocate.run({ ask: { lines: [{ line: l.id, qty: c.qty, seen: l.version }] } });
      }}
    >
      {c.qty > 0 ? t`Allocate ${showNum(c.qty)}` : say(c.why)}
    </button>
  );
}

const lineVerbs = ['allocate', 'release', 'give back', 'drop', 'reopen'] as const;
type LineVerb = (typeof lineVerbs)[number];
const verbNames: Record<LineVerb, string> = {
  allocate: t`Allocate`,
  'give back': t`Give back`,
  release: t`Release`,
  drop: t`Drop`,
  reopen: t`Reopen`,
};

/** Every quantity of the line in focus, and what can be done with how many. */
function LineDetail({ l, customer }: { l: LineView; customer: string }) {
  const { may } = useSigned();
  const [asked, setVerb] = useState<LineVerb>();
  const verb = asked && can(l, asked).qty > 0 ? asked : (lineVerbs.find((v) => can(l, v).qty > 0 && may(v)) ?? 'allocate');
  const chosen = can(l, verb);
  const [qty, setQty] = useState<number>();
  const [asking, setAsking] = useState(false);
  const [room, setRoom] = useState(false);
  const done = () => setQty(undefined);
  const commands = {
    allocate: useCommand('/api/allocate', done),
    'give back': useCommand('/api/give-back', done),
    release: useCommand('/api/release', done),
    drop: useCommand('/api/drop', done),
    reopen: useCommand('/api/reopen', done),
  };
  const n = Math.min(qty ?? chosen.qty, chosen.qty);
  const run = (reason?: string) => commands[verb].run({ ask: { lines: [{ line: l.id, qty: n, seen: l.version }] }, reason });
  return (
    <div className="space-y-2">
      <p>
        <span className="font-semibold">{tellCounts(l.at)}</span>
        {l.multiple > 1 && (
          <span className="text-mute">
            {' '}
            <Trans>· goes in packs of {l.multiple}</Trans>
          </span>
        )}
        {l.places.length > 0 && (
          <span className="text-mute">
            {' '}
            ·{' '}
            {l.places
              .map(
                (p) =>
                  `${p.warehouse}: ${tellCounts({ ordered: 0, open: 0, shipped: 0, delivered: 0, dropped: 0, promised: 0, ...p })}`,
              )
              .join('; ')}
          </span>
        )}
        <span className="text-mute"> · </span>
        <TrailLink only={[`order=${l.order}`, `line=${l.line}`]} />
      </p>
      {l.at.open > 0 && (
        <p>
          {l.promises.length > 0 ? (
            <>
              <span className="text-mute">{t`Promised`} </span>
              {l.promises.map((p, i) => (
                <span key={p.day + p.warehouse}>
                  {i > 0 && ', '}
                  <Trans>{showNum(p.qty)} for</Trans>{' '}
                  {p.late ? (
                    <span className="late">
                      <Trans>{showDay(p.day)} · late</Trans>
                    </span>
                  ) : (
                    showDay(p.day)
                  )}
                  {p.warehouse !== l.warehouse && (
                    <span className="text-mute">
                      {' '}
                      <Trans>from {p.warehouse}</Trans>
                    </span>
                  )}
                </span>
              ))}
              <span className="text-mute"> · </span>
            </>
          ) : (
            <span className="text-mute">{t`Nothing is promised ·`} </span>
          )}
          <Link
            to="/promise"
            search={{ sku: l.sku, qty: String(l.at.open), line: String(l.id), customer, warehouse: l.warehouse }}
            className="ref"
          >
            {l.promises.length > 0 ? t`Re-promise` : t`What can be promised?`}
          </Link>
          {may('make room') && (l.promises.some((p) => p.late) || l.at.open > l.at.promised) && (
            <>
              <span className="text-mute"> · </span>
              <button className="ref cursor-pointer" onClick={() => setRoom(true)}>
                {t`Make room`}
              </button>
            </>
          )}
          {can(l, 'allocate').qty < l.at.open && (
            <>
              <span className="text-mute"> · </span>
              <Link to="/shortages" search={{ sku: l.sku, warehouse: l.warehouse }} className="ref">
                {t`Who else wants it?`}
              </Link>
            </>
          )}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2">
        {lineVerbs.map((v) => {
          const c = can(l, v);
          if (v === 'reopen' && c.qty === 0) return null;
          return (
            <button
              key={v}
              className="btn btn-xs btn-pill"
              aria-pressed={verb === v}
              disabled={c.qty === 0 || !may(v)}
              onClick={() => (setVerb(v), setQty(undefined))}
            >
              {verbNames[v]}
            </button>
          );
        })}
        {chosen.qty > 0 && may(verb) ? (
          <>
            <Quantity
              label={t`Units to ${verb}`}
              value={n}
              most={chosen.qty}
              set={setQty}
              enter={() => (verb === 'drop' ? setAsking(true) : run())}
            />
            <span className="text-mute">
              <Trans>of {showNum(chosen.qty)}</Trans>
            </span>
            <button
              className="btn btn-sm"
              disabled={n === 0 || commands[verb].busy}
              onClick={() => (verb === 'drop' ? setAsking(true) : run())}
            >
              {verbNames[verb]} {showNum(n)}
            </button>
          </>
        ) : (
          <span className="text-mute">{say(chosen.why)}</span>
        )}
        <Refusals
          of={lineVerbs
            .filter((v) => v !== 'reopen' && v !== verb && (can(l, v).qty === 0 || !may(v)))
            .map((v) => [verbNames[v], may(v) ? say(can(l, v).why) : t`your role may not do this`])}
        />
      </div>
      {room && (
        <MakeRoom
          ask={{ line: l.id, sku: l.sku, warehouse: l.warehouse, qty: l.at.open, by: l.ship_by }}
          close={() => setRoom(false)}
        />
      )}
      {asking && (
        <ReasonDialog
          title={t`Drop ${n} of ${l.sku}?`}
          label={t`Why? It stays in the trail; the units can be reopened later.`}
          verb={t`Drop them`}
          suggestions={dropReasons}
          close={() => setAsking(false)}
          go={(reason) => {
            setAsking(false);
            run(reason);
          }}
        />
      )}
    </div>
  );
}

type Entry = Schemas['TrailEntry'];

/** What one command did stands together, the newest first. */
function gathered(trail: Entry[]): [Entry, ...Entry[]][] {
  const out: [Entry, ...Entry[]][] = [];
  for (const e of trail) {
    const last = out.at(-1);
    if (last && last[0].command === e.command) last.push(e);
    else out.push([e]);
  }
  return out.reverse();
}

/** Of what one command did to many lines so many are listed at first. */
const atFirst = 8;

function Trail({ number }: { number: string }) {
  const trail = useQuery(questions.trail(number));
  return (
    <section aria-label={t`Trail`}>
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="text-lead">{t`Trail`}</h2>
        <TrailLink only={[`order=${number}`]}>{t`Open in the journal`}</TrailLink>
      </div>
      <Load of={trail}>
        {(entries) => (
          <ol className="space-y-1">
            {gathered(entries).map((all) => {
              const [e] = all;
              const more = all.slice(atFirst);
              return (
                <li key={`${e.command} ${e.kind}`} className="flex gap-2">
                  <span className="min-w-[122px] shrink-0 whitespace-nowrap text-mute">{showTime(e.at)}</span>
                  <div className={`min-w-0 flex-1 ${e.undone ? 'text-mute line-through' : ''}`}>
                    <b>{e.who}</b> <Said of={e} />
                    {all.slice(1, atFirst).map((x, i) => (
                      <p key={i}>
                        <Said of={x} />
                      </p>
                    ))}
                    {more.length > 0 && (
                      <details>
                        <summary className="cursor-pointer text-mute">
                          <Trans>and {showNum(more.length)} more</Trans>
                        </summary>
                        {more.map((x, i) => (
                          <p key={i}>
                            <Said of={x} />
                          </p>
                        ))}
                      </details>
                    )}
                  </div>
                  {e.undo && <TakeBack command={e.command} what={say(e.text)} />}
                </li>
              );
            })}
          </ol>
        )}
      </Load>
    </section>
  );
}

function Said({ of: e }: { of: Entry }) {
  return (
    <>
      {say(e.text)}
      {e.document && (
        <>
          {' '}
          <DocumentLink kind={e.document_kind ?? ''} number={e.document} />
        </>
      )}
    </>
  );
}
