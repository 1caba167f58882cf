import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { Fragment, lazy, Suspense, useEffect, useMemo, useState } from 'react';
import { useKey } from '../../base/keys/useKey';
import { questions } from '../../base/questions';
import { plural, showDay, showMoney } from '../../base/format';
import { DocumentLink, Key, PageHead, Tier } from '../../parts/bits';
import { Choice, useList } from '../../parts/list';
import { Page } from '../../parts/Page';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { FirstSteps } from './FirstSteps';
import { TodoAside } from './TodoAside';
import { useStep } from './useStep';
import { byTime, lossOf, matterOf, moreOf, stepOf, untilWhen, type Todo } from './words';

const MoveArrival = lazy(() => import('../../parts/MoveArrival').then((m) => ({ default: m.MoveArrival })));

const idOf = (todo: Todo) => `${todo.kind} ${todo.number} ${todo.warehouse ?? ''} ${todo.promise?.line ?? ''} ${todo.sku ?? ''}`;
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
  useKey('enter', t`Take the next step`, () => row && step.take(row), {
    enabled: row !== undefined && !step.busy,
    group: t`In the list`,
  });
  useKey('o', t`Open the order`, () => row && void go({ to: '/orders/$number', params: { number: row.number } }), {
    enabled: row?.document === 'order',
    group: t`In the list`,
  });
  return (
    <Page
      aside={
        list.data?.begun.orders ? (
          row ? (
            <TodoAside key={focus.id} todo={row} />
          ) : (
            <p className="text-mute">{t`Select a row.`}</p>
          )
        ) : undefined
      }
    >
      <PageHead title={list.data ? showDay(list.data.today) : t`Today`} sub={t`To do, the most urgent first`}>
        <Choice
          name="show"
          options={[
            ['', t`Everything`],
            ['office', t`Office`],
            ['floor', t`Floor`],
          ]}
        />
      </PageHead>
      <Load of={list}>
        {(d) =>
          !d.begun.orders ? (
            <Empty title={t`There is no order yet.`} />
          ) : d.todos.length === 0 ? (
            <Empty title={show ? t`Nothing is left to do here.` : t`Nothing is left to do: the day is done.`}>
              <Trans>Everything that is to leave by {showDay(d.until)} has left, or waits for something that is not yours.</Trans>
            </Empty>
          ) : (
            <table className="grid-table table-fixed" aria-label={t`To do`}>
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
                  <th>{t`Tier`}</th>
                  <th>{t`Next step`}</th>
                  <th>{t`To do`}</th>
                  <th>{t`Customer`}</th>
                  <th title={t`Warehouse`}>{t`At`}</th>
                  <th className="num">{t`Value`}</th>
                  <th>{t`Lost by waiting`}</th>
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
                          <span className="ml-2 text-mute">
                            <Trans>{plural(g.length, 'thing')} to do</Trans>
                          </span>
                        </th>
                      </tr>
                      {g.map((todo) => (
                        <Row
                          key={idOf(todo)}
                          t={todo}
                          focused={focus.id === idOf(todo)}
                          focus={() => focus.setFocus(idOf(todo))}
                          take={() => step.take(todo)}
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
        <p className="mt-3 max-w-[900px] text-mute">
          <Trans>Less urgent, and not listed yet: {moreOf(list.data.more)}.</Trans>
        </p>
      )}
      {list.data && !list.data.begun.left && <FirstSteps begun={list.data.begun} />}
      {moving?.receipt && (
        <Suspense>
          <MoveArrival n={moving.receipt} close={() => setMoving(undefined)} />
        </Suspense>
      )}
    </Page>
  );
}

function Row({
  t: todo,
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
  const loss = lossOf(todo);
  const others = todo.customers > 1 ? t` and ${plural(todo.customers - 1, 'other')}` : '';
  return (
    <tr data-row data-focus={focused} onClick={focus}>
      <td>
        <Tier n={todo.tier} />
      </td>
      <td>
        <button
          className="btn btn-xs btn-pill w-full justify-between"
          disabled={busy}
          aria-label={`${stepOf(todo)} ${todo.number}`}
          onClick={(e) => {
            e.stopPropagation();
            focus();
            take();
          }}
        >
          {stepOf(todo)} {focused && <Key>↵</Key>}
        </button>
      </td>
      <td className="truncate" title={`${todo.number} ${matterOf(todo)}`}>
        <DocumentLink kind={todo.document} number={todo.number} /> {matterOf(todo)}
      </td>
      <td className="truncate" title={(todo.customer ?? '') + others}>
        {todo.customer}
        <span className="text-mute">{others}</span>
      </td>
      <td>{todo.warehouse}</td>
      <td className="num">{todo.currency && todo.value_minor > 0 ? showMoney(todo.value_minor, todo.currency) : '–'}</td>
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
