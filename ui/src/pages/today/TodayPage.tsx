import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { Fragment, useEffect, useMemo, useState } from 'react';
import { useKey } from '../../base/keys/useKey';
import { questions } from '../../base/questions';
import { plural, showDay, showMoney } from '../../base/format';
import { DocumentLink, Key, PageHead, Tier } from '../../parts/bits';
import { Choice, useList } from '../../parts/list';
import { MoveArrival } from '../../parts/MoveArrival';
import { Page } from '../../parts/Page';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { FirstSteps } from './FirstSteps';
import { TodoAside } from './TodoAside';
import { useStep } from './useStep';
import { byTime, lossOf, matterOf, moreOf, stepOf, untilWhen, type Todo } from './words';

const idOf = (t: Todo) => `${t.kind} ${t.number} ${t.warehouse ?? ''} ${t.promise?.line ?? ''} ${t.sku ?? ''}`;
const none: Todo[] = [];

/** The to-do list, the most urgent first, each entry with its one next step. */
export function TodayPage() {
  const [s] = useList();
  const show = s.show === 'office' || s.show === 'floor' ? s.show : undefined;
  const list = useQuery(questions.todo(show));
  const todos = list.data?.todos ?? none;
  const focus = useRows(todos, idOf);
  const [moving, setMoving] = useState<Todo>();
  const step = useStep(setMoving);
  const now = useNow();
  const groups = useMemo(() => byTime(todos), [todos]);
  const row = focus.row;
  const go = useNavigate();
  useKey('enter', 'Take the next step', () => row && step.take(row), {
    enabled: row !== undefined && !step.busy,
    group: 'In the list',
  });
  useKey('o', 'Open the order', () => row && void go({ to: '/orders/$number', params: { number: row.number } }), {
    enabled: row?.document === 'order',
    group: 'In the list',
  });
  return (
    <Page
      aside={
        list.data?.begun.orders ? (
          row ? (
            <TodoAside key={focus.id} todo={row} />
          ) : (
            <p className="text-mute">Select a row.</p>
          )
        ) : undefined
      }
    >
      <PageHead title={list.data ? showDay(list.data.today) : 'Today'} sub="To do, the most urgent first">
        <Choice
          name="show"
          options={[
            ['', 'Everything'],
            ['office', 'Office'],
            ['floor', 'Floor'],
          ]}
        />
      </PageHead>
      <Load of={list}>
        {(d) =>
          !d.begun.orders ? (
            <Empty title="There is no order yet." />
          ) : d.todos.length === 0 ? (
            <Empty title={show ? 'Nothing is left to do here.' : 'Nothing is left to do: the day is done.'}>
              Everything that is to leave by {showDay(d.until)} has left, or waits for something that is not yours.
            </Empty>
          ) : (
            <table className="grid-table table-fixed" aria-label="To do">
              <colgroup>
                <col className="w-[42px]" />
                <col className="w-[112px]" />
                <col className="w-[33%]" />
                <col />
                <col className="w-[46px]" />
                <col className="w-[98px]" />
                <col className="w-[20%]" />
              </colgroup>
              <thead>
                <tr>
                  <th>Tier</th>
                  <th>Next step</th>
                  <th>To do</th>
                  <th>Customer</th>
                  <th title="Warehouse">At</th>
                  <th className="num">Value</th>
                  <th>Lost by waiting</th>
                </tr>
              </thead>
              <tbody>
                {groups.map((g) => {
                  const first = g[0];
                  if (!first) return null;
                  const when = untilWhen(first, now);
                  return (
                    <Fragment key={`${first.by} ${first.cut_off}`}>
                      <tr>
                        <th colSpan={7} scope="rowgroup" className="pt-3! text-ink!">
                          <span className="font-head text-lead font-semibold">{when.by}</span>
                          {when.left && <span className="late ml-2">{when.left}</span>}
                          <span className="ml-2 text-mute">{plural(g.length, 'thing')} to do</span>
                        </th>
                      </tr>
                      {g.map((t) => (
                        <Row
                          key={idOf(t)}
                          t={t}
                          focused={focus.id === idOf(t)}
                          focus={() => focus.setFocus(idOf(t))}
                          take={() => step.take(t)}
                          busy={step.busy}
                        />
                      ))}
                    </Fragment>
                  );
                })}
              </tbody>
            </table>
          )
        }
      </Load>
      {list.data && list.data.more.length > 0 && (
        <p className="mt-3 max-w-[900px] text-mute">Less urgent, and not listed yet: {moreOf(list.data.more)}.</p>
      )}
      {list.data && !list.data.begun.left && <FirstSteps begun={list.data.begun} />}
      {moving?.receipt && <MoveArrival n={moving.receipt} close={() => setMoving(undefined)} />}
    </Page>
  );
}

function Row({
  t,
  focused,
  focus,
  take,
  busy,
}: {
  t: Todo;
  focused: boolean;
  focus: () => void;
  take: () => void;
  busy: boolean;
}) {
  const loss = lossOf(t);
  const others = t.customers > 1 ? ` and ${plural(t.customers - 1, 'other')}` : '';
  return (
    <tr data-row data-focus={focused} onClick={focus}>
      <td>
        <Tier n={t.tier} />
      </td>
      <td>
        <button
          className="btn btn-xs btn-pill w-full justify-between"
          disabled={busy}
          aria-label={`${stepOf(t)} ${t.number}`}
          onClick={(e) => {
            e.stopPropagation();
            focus();
            take();
          }}
        >
          {stepOf(t)} {focused && <Key>↵</Key>}
        </button>
      </td>
      <td className="truncate" title={`${t.number} ${matterOf(t)}`}>
        <DocumentLink kind={t.document} number={t.number} /> {matterOf(t)}
      </td>
      <td className="truncate" title={(t.customer ?? '') + others}>
        {t.customer}
        <span className="text-mute">{others}</span>
      </td>
      <td>{t.warehouse}</td>
      <td className="num">{t.currency && t.value_minor > 0 ? showMoney(t.value_minor, t.currency) : '–'}</td>
      <td className="truncate" title={loss.text}>
        {loss.late ? <span className="late">{loss.text}</span> : loss.text}
      </td>
    </tr>
  );
}

/** The time now, to the minute. */
function useNow() {
  const [now, set] = useState(Date.now);
  useEffect(() => {
    const timer = setInterval(() => set(Date.now()), 30_000);
    return () => clearInterval(timer);
  }, []);
  return now;
}
