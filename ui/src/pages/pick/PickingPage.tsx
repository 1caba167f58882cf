import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useParams, useSearch } from '@tanstack/react-router';
import { useEffect, useRef, useState } from 'react';
import type { AskOf, Schemas } from '../../api/call';
import { plural, showNum, showTime } from '../../base/format';
import { questions } from '../../base/questions';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { voidText } from '../../parts/paper';
import { Load } from '../../parts/states';
import { CutOffIn } from '../../parts/CutOffIn';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { after, begin, binOf, current, left, ofLot, scan, unitOf, type At, type Pick, type Task } from './scan';
import { sound } from '../../base/sound';
import { useQueue } from './useQueue';

type List = Schemas['PickListView'];
type Found = AskOf<'/api/pick'>[number];

/** A pick list, one row at a time: the bin, the item, how many. */
export function PickingPage() {
  const number: string = useParams({ strict: false }).number ?? '';
  const { sheet }: { sheet?: string } = useSearch({ strict: false });
  const list = useQuery(questions.pickList(number));
  return list.data ? (
    <Taking key={list.data.number} list={list.data} sheet={sheet} />
  ) : (
    <FloorFrame title={number}>
      <Load of={list}>{() => null}</Load>
    </FloorFrame>
  );
}

/** Says whose list it is, without many words: the page shows it. */
function useHand() {
  const { tell, carryOut } = useToasts();
  const queries = useQueryClient();
  return (ask: AskOf<'/api/hand'>) =>
    void carryOut('/api/hand', ask)
      .catch((e: unknown) => tell({ text: e instanceof Error ? e.message : String(e), bad: true }))
      .finally(() => void queries.invalidateQueries());
}

/** Whose list it is: nobody's becomes one's own, another's is taken over if one says so. */
function Taking({ list: l, sheet }: { list: List; sheet?: string }) {
  const { me } = useSigned();
  const hand = useHand();
  const [mine, setMine] = useState(l.picker === me.name || l.due === 0);
  const asked = useRef(false);
  useEffect(() => {
    if (l.picker || l.due === 0 || asked.current) return;
    asked.current = true;
    setMine(true);
    hand({ list: l.number });
  }, [l, hand]);
  if (mine || l.picker === me.name || !l.picker) return <Picking list={l} sheet={sheet} />;
  return (
    <FloorFrame title={l.number} sub={l.warehouse}>
      <div className="floor-box">
        <p className="text-head">
          <Trans>
            <b>{l.picker}</b> picks this list since {showTime(l.taken ?? '')}. {plural(l.rows_due, 'row')} are left.
          </Trans>
        </p>
        <div className="mt-3 flex flex-wrap gap-3">
          <button
            className="btn btn-primary"
            onClick={() => {
              setMine(true);
              hand({ list: l.number, seen: l.login });
            }}
          >
            {t`Take it over`}
          </button>
          <Link to="/pick" className="btn">
            {t`Choose another list`}
          </Link>
        </div>
      </div>
    </FloorFrame>
  );
}

/** Why fewer were found, as a picker says it. */
const causes: ['missing' | 'damaged' | 'elsewhere', string][] = [
  ['missing', t`The rest is missing`],
  ['damaged', t`The rest is damaged`],
  ['elsewhere', t`The rest must lie elsewhere`],
];

function Picking({ list: l, sheet }: { list: List; sheet?: string }) {
  const { queue, list: queued } = useQueue();
  const [at, setAt] = useState<At>(begin);
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const [fewer, setFewer] = useState<number>();
  const unsent = queued.flatMap((q): Pick[] => (q.path === '/api/pick' && q.refused === undefined ? (q.ask as Found[]) : []));
  const tasks = after(l.tasks, unsent);
  const task = current(tasks, at);
  const held = l.papers.find((p) => p.code.toLowerCase() === sheet?.toLowerCase());
  const say = (kind: 'right' | 'wrong', text: string) => {
    setHeard({ kind, text });
    sound(kind === 'right');
  };
  const pick = (of: Task, qty: number, more: Partial<Found> = {}) => {
    const unit = unitOf(of.unit, qty);
    const what = t`${showNum(qty)} ${unit} of ${of.sku} from ${binOf(of, at) || t`no bin`}`;
    queue.put(
      '/api/pick',
      [
        {
          task: of.id,
          qty,
          seen: of.due,
          from: at.from,
          item: at.item,
          sheet: held && !held.void_why ? held.code : undefined,
          lots: at.lot && qty > 0 ? [{ lot: at.lot, qty }] : undefined,
          ...more,
        },
      ],
      what,
    );
    setFewer(undefined);
    // Who takes the rest of another lot stands at the bin, with the item in hand.
    const stays = more.later && at.lot ? { step: 'lot' as const, item: at.item, from: at.from } : {};
    setAt({ ...begin, skipped: at.skipped, task: more.later ? of.id : undefined, ...stays });
    say('right', more.cause ? t`${what}; ${showNum(of.due - qty)} not found.` : t`${what} into tote ${of.tote}: done.`);
  };
  const take = (text: string) => {
    if (fewer !== undefined) return say('wrong', t`Say first what is with the rest.`);
    const r = scan(tasks, at, text);
    setAt(r.at);
    if ('text' in r.heard) return say(r.heard.kind, r.heard.text);
    if (!task) return;
    if (r.heard.kind === 'picked') pick(task, r.heard.qty);
    else if (r.heard.kind === 'of lot') pick(task, r.heard.qty, { later: true });
    else setFewer(r.heard.qty);
  };
  const done = tasks.filter((x) => x.due === 0);
  const picked = tasks.reduce((n, x) => n + x.picked, 0);
  const asked = tasks.reduce((n, x) => n + x.qty - x.recalled, 0);
  const sub = [l.zone ? t`${l.warehouse}, zone ${l.zone}` : l.warehouse, plural(l.orders, 'order')].join(' · ');
  return (
    <FloorFrame
      title={l.number}
      sub={
        <>
          {sub} · <CutOffIn of={l} />
        </>
      }
      foot={
        <>
          <span>
            <Trans>
              {showNum(done.length)} of {plural(tasks.length, 'row')} done · {showNum(picked)} of {plural(asked, 'unit')}
            </Trans>
          </span>
          <span className="ml-auto flex gap-3">
            <Link to="/pick" className="btn btn-quiet max-[500px]:hidden">
              {t`Lists`}
            </Link>
            {task && (
              <button
                className="btn btn-main"
                onClick={() => (at.step === 'quantity' ? take('') : pick(task, task.due))}
                disabled={fewer !== undefined || (task.by_lots && !at.lot && (!task.lot || at.from !== undefined))}
              >
                <Trans>{showNum(ofLot(task, at))} picked</Trans> <span aria-hidden>⏎</span>
              </button>
            )}
          </span>
        </>
      }
    >
      <Unsent />
      {held?.void_why && (
        <p role="alert" className="floor-box floor-stop mb-2">
          <b>{t`${held.code} is void:`}</b> {voidText(held)}.{' '}
          {held.standing ? t`Take ${held.standing}.` : t`Go by what stands here.`}
        </p>
      )}
      <Stops of={tasks} />
      <ol className="mb-2 flex gap-0.5" aria-label={t`Rows of the list`}>
        {tasks.map((x) => (
          <li
            key={x.id}
            className="floor-row"
            data-state={x.due === 0 ? (x.short > 0 ? 'short' : 'done') : x.id === task?.id ? 'now' : 'left'}
            title={x.bin}
          />
        ))}
      </ol>
      {task ? (
        <>
          <Row task={task} at={at} next={left(tasks, at.skipped)[1]} of={tasks.length} />
          <div className="mt-2">
            <ScanField label={ask(at, task)} take={take} />
          </div>
          <Heard of={heard} />
          {fewer === undefined ? (
            <Ways
              task={task}
              fewer={() => setFewer(0)}
              other={(bin) => {
                setAt({ ...at, task: task.id, step: 'bin', from: bin });
                say('right', t`Go to ${bin}.`);
              }}
              skip={() => {
                setAt({ ...begin, skipped: [...at.skipped.filter((id) => id !== task.id), task.id] });
                setHeard(undefined);
              }}
              can={left(tasks, at.skipped).length > 1}
            />
          ) : (
            <Fewer
              task={task}
              qty={fewer}
              set={setFewer}
              short={(qty, broken, cause) => {
                const rest = task.due - qty - broken;
                if (broken === 0 || rest === 0) return pick(task, qty, { cause: broken > 0 ? 'damaged' : cause });
                pick(task, qty, { later: true, cause: 'damaged', short: broken });
                pick({ ...task, due: rest }, 0, { cause, item: undefined, lots: undefined });
              }}
              later={(qty) => pick(task, qty, { later: true })}
              close={() => setFewer(undefined)}
            />
          )}
          <Next rows={left(tasks, at.skipped).filter((x) => x.id !== task.id)} />
        </>
      ) : (
        <div className="floor-box floor-right mt-3 text-center">
          <p className="text-large font-bold">{t`All of it is picked.`}</p>
          <div className="mt-3 flex justify-center gap-3">
            <Link to="/pack" className="btn btn-primary">
              {t`Go and pack`}
            </Link>
            <Link to="/pick" className="btn">
              {t`Next list`}
            </Link>
          </div>
        </div>
      )}
    </FloorFrame>
  );
}

/** What is scanned or typed next. */
function ask(at: At, task: Task): string {
  if (at.step === 'bin') return binOf(task, at) ? t`Scan the bin, then the item…` : t`No bin is set: scan where you found it…`;
  if (at.step === 'item') return t`Scan the item…`;
  if (at.step === 'lot') return t`Scan or type its lot…`;
  return t`Enter for all ${showNum(ofLot(task, at))}, or type how many…`;
}

function Row({ task, at, next, of }: { task: Task; at: At; next?: Task; of: number }) {
  const bin = binOf(task, at);
  const also = next && next.bin === task.bin && next.sku === task.sku ? next : undefined;
  return (
    <section aria-label={t`Row ${task.row} of ${of}`} className="floor-now" data-step={at.step}>
      <p className="text-head text-mute">
        {t`Row ${task.row} of ${of}`}
        {at.from && task.bin && ' · ' + t`in place of ${task.bin}`}
      </p>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <b className={`text-huge ${bin ? '' : 'late'}`}>{bin || t`No bin`}</b>
        <b className="text-huge">
          {showNum(task.due)} <span className="text-large">{unitOf(task.unit, task.due)}</span>
        </b>
      </div>
      <p className="text-large">
        <b>{task.sku}</b> {task.item}
      </p>
      {task.by_lots && (
        <p className="text-head">
          {at.lot ? (
            <Trans>
              lot <b>{at.lot}</b>
            </Trans>
          ) : at.from === undefined && task.lots.length > 0 ? (
            <Trans>
              lots here:{' '}
              <b>{task.lots.map((l) => (l.stop ? t`${l.lot} (must not be sent)` : `${l.lot} (${showNum(l.qty)})`)).join(', ')}</b>
            </Trans>
          ) : (
            <span className="text-mute">{t`Its lot is to be noted.`}</span>
          )}
        </p>
      )}
      <p className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-head">
        <span className="floor-tote">
          <Trans>
            tote <b>{task.tote}</b>
          </Trans>
        </span>
        <span className="text-mute">
          {task.order} {task.customer}
          {also && ' · ' + t`then ${showNum(also.due)} into tote ${also.tote}`}
        </span>
        {task.held && <span className="late">{t`its order is on hold`}</span>}
      </p>
    </section>
  );
}

/** What else can be done with the row. */
function Ways({
  task,
  fewer,
  other,
  skip,
  can,
}: {
  task: Task;
  fewer: () => void;
  other: (bin: string) => void;
  skip: () => void;
  can: boolean;
}) {
  return (
    <div className="mt-3 grid grid-cols-2 gap-3 max-[400px]:grid-cols-1">
      <button className="btn floor-way" onClick={fewer}>
        <Trans>Fewer than {showNum(task.due)}</Trans>
      </button>
      {task.others.slice(0, 2).map((o) => (
        <button key={o.bin} className="btn floor-way" onClick={() => other(o.bin)}>
          <Trans>
            Other bin: {o.bin} has {showNum(o.qty)}
          </Trans>
        </button>
      ))}
      {can && (
        <button className="btn floor-way" onClick={skip}>
          {t`Skip for now`}
        </button>
      )}
    </div>
  );
}

/** How many were found, and what is with the rest. */
function Fewer({
  task,
  qty,
  set,
  short,
  later,
  close,
}: {
  task: Task;
  qty: number;
  set: (n: number) => void;
  short: (qty: number, broken: number, cause: 'missing' | 'damaged' | 'elsewhere') => void;
  later: (qty: number) => void;
  close: () => void;
}) {
  const [broken, setBroken] = useState(0);
  const rest = task.due - qty;
  const step = (by: number) => set(Math.max(0, Math.min(task.due - 1, qty + by)));
  return (
    <section aria-label={t`Fewer were found`} className="floor-box mt-3">
      <p className="flex flex-wrap items-center gap-3 text-head">
        {t`Found`}
        <button className="btn" aria-label={t`One fewer`} onClick={() => step(-1)}>
          −
        </button>
        <input
          className="qty"
          inputMode="numeric"
          aria-label={t`Units that were found`}
          autoFocus
          value={String(qty)}
          onFocus={(e) => e.target.select()}
          onChange={(e) => /^\d{0,7}$/.test(e.target.value) && set(Math.min(task.due - 1, Number(e.target.value)))}
        />
        <button className="btn" aria-label={t`One more`} onClick={() => step(1)}>
          +
        </button>
        <span className="text-mute">
          <Trans>
            of {showNum(task.due)}; {showNum(rest)} are not there
          </Trans>
        </span>
      </p>
      {rest > 1 && (
        <p className="mt-2 flex flex-wrap items-center gap-3 text-head">
          {t`Of them damaged`}
          <button className="btn" aria-label={t`One damaged fewer`} onClick={() => setBroken(Math.max(0, broken - 1))}>
            −
          </button>
          <b className="w-8 text-center">{showNum(Math.min(broken, rest))}</b>
          <button className="btn" aria-label={t`One damaged more`} onClick={() => setBroken(Math.min(rest, broken + 1))}>
            +
          </button>
        </p>
      )}
      <div className="mt-3 grid grid-cols-2 gap-3 max-[400px]:grid-cols-1">
        {causes.map(([cause, text]) => (
          <button key={cause} className="btn floor-way" onClick={() => short(qty, Math.min(broken, rest), cause)}>
            {text}
          </button>
        ))}
        {qty > 0 && task.by_lots && (
          <button className="btn floor-way" onClick={() => later(qty)}>
            {t`The rest is of another lot`}
          </button>
        )}
        {qty > 0 && task.others.length > 0 && (
          <button className="btn floor-way" onClick={() => later(qty)}>
            <Trans>Take the rest from {task.others[0]?.bin}</Trans>
          </button>
        )}
        <button className="btn floor-way" onClick={close}>
          {t`Back`}
        </button>
      </div>
    </section>
  );
}

function Next({ rows }: { rows: Task[] }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label={t`Next`} className="mt-4">
      <h2 className="text-head font-semibold">{t`Next`}</h2>
      {rows.slice(0, 4).map((x) => (
        <p key={x.id} className="flex gap-4 border-b border-line py-2 text-head">
          <b className="w-[92px] shrink-0">{x.bin || t`no bin`}</b>
          <span className="min-w-0 flex-1 truncate">
            {showNum(x.due)} × {x.sku} {x.item}
          </span>
          <span className="max-[500px]:hidden">
            <Trans>tote {x.tote}</Trans>
          </span>
        </p>
      ))}
    </section>
  );
}

/** What was recalled while the list was out: loud, by tote. */
function Stops({ of: tasks }: { of: Task[] }) {
  const recalled = tasks.filter((x) => x.recalled > 0);
  if (recalled.length === 0) return null;
  return (
    <div role="alert" className="floor-box floor-stop mb-2">
      {recalled.map((x) => (
        <p key={x.id}>
          <b>{t`Stop: tote ${x.tote}.`}</b>{' '}
          <Trans>
            {showNum(x.recalled)} of {x.sku} for {x.order} are not wanted any more.
          </Trans>
        </p>
      ))}
    </div>
  );
}
