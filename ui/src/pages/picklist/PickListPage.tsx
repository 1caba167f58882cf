import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams, useSearch } from '@tanstack/react-router';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Act } from '../../parts/Act';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { Day, Fault, ItemLink, Key, OrderLink, PageHead } from '../../parts/bits';
import { Dialog } from '../../parts/Dialog';
import { plural, showNum, showSpan, showTime, showWalk } from '../../base/format';
import { Quantity } from '../../parts/Quantity';
import { paperState, pdfOf, voidText } from '../../parts/paper';
import { useRows } from '../../parts/rows';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { TrailLink } from '../../parts/TrailLink';

type Task = Schemas['TaskView'];
type Cause = 'missing' | 'damaged' | 'elsewhere';

const causes: [Cause, string, string][] = [
  ['missing', t`Missing`, t`It is not there: the count falls by as many.`],
  ['damaged', t`Damaged`, t`It is there and cannot be sold: it is held from now on.`],
  ['elsewhere', t`In another bin`, t`It must be somewhere in the house: it is free again, its bin unknown.`],
];

/** One pick list in walking order: confirm each row, or all of them. */
export function PickListPage() {
  const number: string = useParams({ strict: false }).number ?? '';
  const list = useQuery({
    ...questions.pickList(number),
  });
  return (
    <Page>
      <Load of={list}>{(l) => <Body l={l} />}</Load>
    </Page>
  );
}

function Body({ l }: { l: Schemas['PickListView'] }) {
  const { may } = useSigned();
  const [found, setFound] = useState<Record<number, number>>({});
  const [short, setShort] = useState<Task[]>([]);
  const [lots, setLots] = useState<Record<number, string>>({});
  const pick = useCommand('/api/pick', () => {
    setFound({});
    setLots({});
  });
  const recall = useCommand('/api/recall');
  const print = useCommand('/api/print');
  const due = l.tasks.filter((task) => task.due > 0);
  const focus = useRows(due, (task) => String(task.id));
  const qty = (task: Task) => Math.min(found[task.id] ?? task.due, task.due);
  const confirm = (tasks: Task[], cause?: Cause) => {
    const fewer = tasks.filter((task) => qty(task) < task.due);
    if (fewer.length > 0 && !cause) return setShort(tasks);
    setShort([]);
    pick.run({
      ask: tasks.map((task) => ({
        task: task.id,
        qty: qty(task),
        cause: qty(task) < task.due ? cause : undefined,
        seen: task.due,
        lots: lots[task.id]?.trim() && qty(task) > 0 ? [{ lot: lots[task.id]?.trim() ?? '', qty: qty(task) }] : undefined,
      })),
    });
  };
  const ok = may('pick') && !pick.busy;
  useKey('c', t`Confirm the line`, () => focus.row && confirm([focus.row]), { enabled: ok && due.length > 0 });
  useKey('shift+c', t`Confirm all lines`, () => confirm(due), { enabled: ok && due.length > 0 });
  return (
    <>
      <PageHead
        title={l.number}
        sub={
          (l.zone ? t`${l.warehouse}, zone ${l.zone}` : l.warehouse) +
          ' · ' +
          t`${plural(l.rows, 'line')} of ${plural(l.orders, 'order')} · released by ${l.who}, ${showTime(l.at)}` +
          (l.walk_cm > 0 ? ' · ' + t`${showWalk(l.walk_cm)} to walk, ${showSpan(l.seconds)}` : '')
        }
      >
        <TrailLink only={[`list=${l.number}`]} look="btn btn-sm" />
        {may('print') && (
          <Act keys="p" does={t`Print the pick list`} off={print.busy} run={() => print.run({ ask: { lists: [l.number] } })}>
            {l.papers.length > 0 ? t`Print again` : t`Print`}
          </Act>
        )}
        {due.length > 0 ? (
          may('pick') ? (
            <button className="btn btn-sm btn-primary" disabled={!ok} onClick={() => confirm(due)}>
              <Trans>Confirm all {plural(due.length, 'line')}</Trans> <Key>⇧ C</Key>
            </button>
          ) : (
            <span className="text-mute">{t`Picking is confirmed by the floor or a coordinator.`}</span>
          )
        ) : (
          <Link to="/packing" className="btn btn-sm">
            {t`All picked: go and pack`}
          </Link>
        )}
      </PageHead>
      <Paper of={l} />
      <table className="grid-table text-lead">
        <thead>
          <tr>
            <th className="num">{t`Line`}</th>
            <th>{t`Bin`}</th>
            <th>{t`Item`}</th>
            <th className="num">{t`To pick`}</th>
            <th className="num">{t`Picked`}</th>
            <th>{t`For`}</th>
            <th className="max-[1000px]:hidden">{t`Ship by`}</th>
            <th aria-label={t`What can be done`} />
          </tr>
        </thead>
        <tbody>
          {l.tasks.map((task) => (
            <tr
              key={task.id}
              data-row
              data-focus={focus.id === String(task.id)}
              onClick={() => focus.setFocus(String(task.id))}
              className={task.due === 0 ? 'text-mute' : ''}
            >
              <td className="num">{task.row}</td>
              <td className="font-semibold">{task.bin || <Fault>{t`no bin set: ask`}</Fault>}</td>
              <td className="max-w-[260px] truncate max-[1119px]:max-w-[190px] max-[1000px]:max-w-[150px]" title={task.item}>
                <ItemLink sku={task.sku} /> <span className="text-mute">{task.item}</span>
                {task.by_lots && task.due > 0 && (
                  <LotField task={task} value={lots[task.id] ?? ''} set={(v) => setLots((was) => ({ ...was, [task.id]: v }))} />
                )}
              </td>
              <td className="num font-semibold">
                {showNum(task.qty - task.recalled)} <span className="font-normal text-mute">{task.unit}</span>
              </td>
              <td className="num">
                {task.due > 0 ? (
                  <Quantity
                    label={t`Picked of line ${task.row}`}
                    value={qty(task)}
                    most={task.due}
                    set={(n) => setFound((was) => ({ ...was, [task.id]: n }))}
                    enter={() => confirm([task])}
                    disabled={!may('pick')}
                  />
                ) : (
                  showNum(task.picked)
                )}
              </td>
              <td>
                <OrderLink number={task.order} /> <span className="text-mute max-[1119px]:hidden">{task.customer}</span>{' '}
                {task.held && <span className="late">{t`on hold`}</span>}
              </td>
              <td className="max-[1000px]:hidden">
                <Day iso={task.ship_by} />
              </td>
              <td className="text-right">
                {task.due > 0 ? (
                  <span className="inline-flex gap-2">
                    {may('recall') && (
                      <button
                        className="btn btn-xs btn-pill"
                        disabled={recall.busy}
                        onClick={() => recall.run({ ask: [{ task: task.id, seen: task.due }] })}
                      >
                        {t`Recall`}
                      </button>
                    )}
                    {may('pick') && (
                      <button className="btn btn-xs btn-pill" disabled={!ok} onClick={() => confirm([task])}>
                        <Trans>Confirm {showNum(qty(task))}</Trans> {focus.id === String(task.id) && <Key>C</Key>}
                      </button>
                    )}
                  </span>
                ) : (
                  <State t={task} />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {short.length > 0 && (
        <ShortDialog
          tasks={short.filter((task) => qty(task) < task.due)}
          qty={qty}
          close={() => setShort([])}
          go={(c) => confirm(short, c)}
        />
      )}
    </>
  );
}

/** What of the list is on paper, and whether the sheet somebody came with still stands. */
function Paper({ of: l }: { of: Schemas['PickListView'] }) {
  const { paper: code }: { paper?: string } = useSearch({ strict: false });
  const standing = l.papers.find((p) => !p.void_why);
  const held = l.papers.find((p) => p.code.toLowerCase() === code?.toLowerCase());
  const last = l.papers[0];
  if (held?.void_why) {
    return (
      <p role="alert" className="alert late mb-2 font-semibold">
        <Trans>
          The sheet {held.code} is void: {voidText(held)}.
        </Trans>{' '}
        {standing ? t`Take ${standing.code}.` : t`Print the list again, or go by what stands here.`}
      </p>
    );
  }
  if (!last) return null;
  if (!standing) {
    return (
      <p role="alert" className="alert late mb-2">
        <Trans>
          Its sheet {last.code} is void: {voidText(last)}.
        </Trans>{' '}
        {t`Print the list again, or go by what stands here.`}
      </p>
    );
  }
  return (
    <p className="pb-2 text-mute">
      {t`On paper:`}{' '}
      <a href={pdfOf(standing)} target="_blank" rel="noreferrer" className="ref">
        {standing.code}
      </a>{' '}
      ({paperState(standing)})
    </p>
  );
}

/** The lot of which the units of a row are, if it has to be said. */
function LotField({ task, value, set }: { task: Task; value: string; set: (lot: string) => void }) {
  if (task.lot) return <span className="block text-mute">{t`lot ${task.lot}`}</span>;
  const id = `lots-${task.id}`;
  return (
    <span className="block">
      <input
        className="input input-sm w-28"
        aria-label={t`Lot of line ${task.row}`}
        placeholder={t`Lot`}
        value={value}
        list={id}
        maxLength={40}
        onChange={(e) => set(e.target.value)}
      />
      <datalist id={id}>
        {task.lots
          .filter((l) => !l.stop)
          .map((l) => (
            <option key={l.lot} value={l.lot}>
              {showNum(l.qty)}
            </option>
          ))}
      </datalist>
    </span>
  );
}

function State({ t: task }: { t: Task }) {
  const said = [
    task.picked > 0 && 'picked',
    task.short > 0 && t`${task.short} short`,
    task.recalled > 0 && t`${task.recalled} recalled`,
  ].filter(Boolean);
  return <span className={task.short > 0 ? 'late' : ''}>{said.join(' · ')}</span>;
}

function ShortDialog({
  tasks,
  qty,
  close,
  go,
}: {
  tasks: Task[];
  qty: (task: Task) => number;
  close: () => void;
  go: (c: Cause) => void;
}) {
  return (
    <Dialog title={t`Fewer were found: why?`} close={close}>
      {tasks.map((task) => (
        <p key={task.id}>
          <Trans>
            Line {task.row}, {task.sku}: {showNum(qty(task))} of {showNum(task.due)} in bin {task.bin || t`not set`}.
          </Trans>
        </p>
      ))}
      <p className="mt-1 text-mute">{t`What is not found is open on its order again, and the coordinator sees it.`}</p>
      <div className="mt-3 space-y-2">
        {causes.map(([c, text, means], i) => (
          <button
            key={c}
            className="w-full cursor-pointer rounded-box border border-line p-2.5 text-left hover:border-focus"
            autoFocus={i === 0}
            onClick={() => go(c)}
          >
            <b>{text}</b>
            <span className="block text-mute">{means}</span>
          </button>
        ))}
      </div>
      <div className="mt-3 text-right">
        <button className="btn btn-sm" onClick={close}>
          {t`Cancel`}
        </button>
      </div>
    </Dialog>
  );
}
