import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from '@tanstack/react-router';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { Day, Fault, ItemLink, Key, OrderLink, PageHead } from '../../parts/bits';
import { Dialog } from '../../parts/Dialog';
import { plural, showNum, showTime } from '../../base/format';
import { Quantity } from '../../parts/Quantity';
import { useRows } from '../../parts/rows';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';

type Task = Schemas['TaskView'];
type Cause = 'missing' | 'damaged' | 'elsewhere';

const causes: [Cause, string, string][] = [
  ['missing', 'Missing', 'It is not there: the count falls by as many.'],
  ['damaged', 'Damaged', 'It is there and cannot be sold: it is held from now on.'],
  ['elsewhere', 'In another bin', 'It must be somewhere in the house: it is free again, its bin unknown.'],
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
  const pick = useCommand('/api/pick', () => setFound({}));
  const recall = useCommand('/api/recall');
  const due = l.tasks.filter((t) => t.due > 0);
  const focus = useRows(due, (t) => String(t.id));
  const qty = (t: Task) => Math.min(found[t.id] ?? t.due, t.due);
  const confirm = (tasks: Task[], cause?: Cause) => {
    const fewer = tasks.filter((t) => qty(t) < t.due);
    if (fewer.length > 0 && !cause) return setShort(tasks);
    setShort([]);
    pick.run({ ask: tasks.map((t) => ({ task: t.id, qty: qty(t), cause: qty(t) < t.due ? cause : undefined, seen: t.due })) });
  };
  const ok = may('pick') && !pick.busy;
  useKey('c', 'Confirm the line', () => focus.row && confirm([focus.row]), { enabled: ok && due.length > 0 });
  useKey('shift+c', 'Confirm all lines', () => confirm(due), { enabled: ok && due.length > 0 });
  return (
    <>
      <PageHead
        title={l.number}
        sub={`${l.warehouse} · ${plural(l.rows, 'line')} of ${plural(l.orders, 'order')} · released by ${l.who}, ${showTime(l.at)}`}
      >
        {due.length > 0 ? (
          may('pick') ? (
            <button className="btn btn-sm btn-primary" disabled={!ok} onClick={() => confirm(due)}>
              Confirm all {plural(due.length, 'line')} <Key>⇧ C</Key>
            </button>
          ) : (
            <span className="text-mute">Picking is confirmed by the floor or a coordinator.</span>
          )
        ) : (
          <Link to="/packing" className="btn btn-sm">
            All picked: go and pack
          </Link>
        )}
      </PageHead>
      <table className="grid-table text-lead">
        <thead>
          <tr>
            <th className="num">Line</th>
            <th>Bin</th>
            <th>Item</th>
            <th className="num">To pick</th>
            <th className="num">Picked</th>
            <th>For</th>
            <th className="max-[1000px]:hidden">Ship by</th>
            <th aria-label="What can be done" />
          </tr>
        </thead>
        <tbody>
          {l.tasks.map((t) => (
            <tr
              key={t.id}
              data-row
              data-focus={focus.id === String(t.id)}
              onClick={() => focus.setFocus(String(t.id))}
              className={t.due === 0 ? 'text-mute' : ''}
            >
              <td className="num">{t.row}</td>
              <td className="font-semibold">{t.bin || <Fault>no bin set: ask</Fault>}</td>
              <td className="max-w-[260px] truncate max-[1119px]:max-w-[190px] max-[1000px]:max-w-[150px]" title={t.item}>
                <ItemLink sku={t.sku} /> <span className="text-mute">{t.item}</span>
              </td>
              <td className="num font-semibold">
                {showNum(t.qty - t.recalled)} <span className="font-normal text-mute">{t.unit}</span>
              </td>
              <td className="num">
                {t.due > 0 ? (
                  <Quantity
                    label={`Picked of line ${t.row}`}
                    value={qty(t)}
                    most={t.due}
                    set={(n) => setFound((was) => ({ ...was, [t.id]: n }))}
                    enter={() => confirm([t])}
                    disabled={!may('pick')}
                  />
                ) : (
                  showNum(t.picked)
                )}
              </td>
              <td>
                <OrderLink number={t.order} /> <span className="text-mute max-[1119px]:hidden">{t.customer}</span>{' '}
                {t.held && <span className="late">on hold</span>}
              </td>
              <td className="max-[1000px]:hidden">
                <Day iso={t.ship_by} />
              </td>
              <td className="text-right">
                {t.due > 0 ? (
                  <span className="inline-flex gap-2">
                    {may('recall') && (
                      <button
                        className="btn btn-xs btn-pill"
                        disabled={recall.busy}
                        onClick={() => recall.run({ ask: [{ task: t.id, seen: t.due }] })}
                      >
                        Recall
                      </button>
                    )}
                    {may('pick') && (
                      <button className="btn btn-xs btn-pill" disabled={!ok} onClick={() => confirm([t])}>
                        Confirm {showNum(qty(t))} {focus.id === String(t.id) && <Key>C</Key>}
                      </button>
                    )}
                  </span>
                ) : (
                  <State t={t} />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {short.length > 0 && (
        <ShortDialog
          tasks={short.filter((t) => qty(t) < t.due)}
          qty={qty}
          close={() => setShort([])}
          go={(c) => confirm(short, c)}
        />
      )}
    </>
  );
}

function State({ t }: { t: Task }) {
  const said = [t.picked > 0 && 'picked', t.short > 0 && `${t.short} short`, t.recalled > 0 && `${t.recalled} recalled`].filter(
    Boolean,
  );
  return <span className={t.short > 0 ? 'late' : ''}>{said.join(' · ')}</span>;
}

function ShortDialog({
  tasks,
  qty,
  close,
  go,
}: {
  tasks: Task[];
  qty: (t: Task) => number;
  close: () => void;
  go: (c: Cause) => void;
}) {
  return (
    <Dialog title="Fewer were found: why?" close={close}>
      {tasks.map((t) => (
        <p key={t.id}>
          Line {t.row}, {t.sku}: {showNum(qty(t))} of {showNum(t.due)} in bin {t.bin || 'not set'}.
        </p>
      ))}
      <p className="mt-1 text-mute">What is not found is open on its order again, and the coordinator sees it.</p>
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
          Cancel
        </button>
      </div>
    </Dialog>
  );
}
