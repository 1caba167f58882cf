import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useEffect, useState } from 'react';
import { ask, client } from '../../api/call';
import { useKey } from '../../base/keys/useKey';
import { questions } from '../../base/questions';
import { useToasts } from '../../base/toasts';
import { ItemAside, OrderAside } from '../../parts/asides';
import { Key, PageHead } from '../../parts/bits';
import { DayField } from '../../parts/DayField';
import { chooseAll } from '../../parts/grid/chooseAll';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Find, useList } from '../../parts/list';
import { Page } from '../../parts/Page';
import { Empty } from '../../parts/states';
import { WhyAside } from '../../parts/Why';
import { columnsOf } from './columns';
import { NotOffered } from './NotOffered';
import { QuickChoice } from './QuickChoice';
import { ReleaseTray } from './ReleaseTray';
import { RemedyContext } from './Remedy';
import { ReleasingContext, useFloor, useReleasing, type Line } from './useReleasing';

const idOf = (l: Line) => String(l.id);
const versionOf = (l: Line) => l.version;

/** Everything that could go to the floor, across all orders, and what could not, and why. */
export function ReleasePage() {
  const [s, set] = useList();
  const state = s.state ?? '';
  const due = { q: s.q, until: s.until, warehouse: s.warehouse };
  const grid = useGrid<Line>({
    list: 'release',
    one: 'line',
    fetch: async (q, signal) =>
      ask(client.GET('/api/release', { params: { query: q }, signal })).then((d) => ({ rows: d.lines, next: d.next })),
    columns: state ? columnsOf.kept : columnsOf.could,
    idOf,
    versionOf: state ? undefined : versionOf,
    scope: { state: s.state, until: s.until, warehouse: s.warehouse },
    knows: true,
  });
  const releasing = useReleasing(grid);
  const [floor, setFloor] = useFloor();
  const [quick, setQuick] = useState(false);
  // What was chosen could go by the day that was asked for.
  useEffect(releasing.none, [s.until, s.warehouse, state]); // eslint-disable-line react-hooks/exhaustive-deps
  const offer = useQuery(questions.releasable(due)).data;
  const { tell } = useToasts();
  const go = useNavigate();
  const row = grid.row;
  const beside = grid.beside.row;
  const lookTo = (until: string) => set({ until, state: undefined, row: undefined });
  useKey(
    'o',
    t`Choose its whole order`,
    () => row && grid.loaded.filter((l) => l.order === row.order).forEach((l) => releasing.set(l, l.at.allocated)),
    { group: t`In the list`, enabled: grid.chooses },
  );
  useKey('shift+a', t`Choose all that could go`, () => void chooseAll(grid, tell), {
    enabled: grid.chooses,
  });
  useKey('q', t`Choose lines in one step`, () => setQuick(true), { enabled: grid.chooses });
  return (
    <Page
      fill
      aside={
        beside ? (
          <>
            <ItemAside sku={beside.sku} warehouse={beside.warehouse} />
            <WhyAside line={beside.id} />
            <OrderAside number={beside.order} except={beside.id} />
          </>
        ) : (
          <p className="text-mute">{t`Select a row.`}</p>
        )
      }
      tray={grid.choice.size > 0 && <ReleaseTray grid={grid} of={releasing} until={s.until} floor={floor} set={setFloor} />}
    >
      <PageHead title={state ? t`Not offered` : t`Release`} sub={<Found grid={grid} />}>
        {!state && (
          <button className="btn btn-sm" aria-keyshortcuts="q" onClick={() => setQuick(true)}>
            {t`Choose…`} <Key>Q</Key>
          </button>
        )}
        <span className="flex items-center gap-1.5 text-mute">
          {t`Due by`}
          <DayField
            label={t`Lines to be shipped by this day`}
            width={112}
            value={s.until ?? offer?.until ?? ''}
            set={(until) => set({ until: until || undefined })}
          />
        </span>
        <select
          aria-label={t`Warehouse`}
          className="select select-sm"
          value={s.warehouse ?? ''}
          onChange={(e) => set({ warehouse: e.target.value || undefined })}
        >
          <option value="">{t`Anywhere`}</option>
          {offer?.warehouses.map((w) => (
            <option key={w}>{w}</option>
          ))}
        </select>
        <GroupBy grid={grid} />
        <Find label={t`Order, item…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <ReleasingContext value={releasing}>
        <RemedyContext value={{ state, lookTo }}>
          <DataGrid
            grid={grid}
            label={state ? t`Lines that cannot go` : t`Lines that could go`}
            open={(l) => void go({ to: '/orders/$number', params: { number: l.order } })}
            opens={t`Open the order`}
            empty={
              s.only ? (
                <Empty title={t`No line fits this.`}>{t`Take a filter away.`}</Empty>
              ) : (
                <Empty title={t`Nothing can be released with these settings.`}>
                  {t`Below is what stands in the way, with counts. Choose a later day to see work that is due later.`}
                </Empty>
              )
            }
          />
        </RemedyContext>
      </ReleasingContext>
      {offer && (
        <NotOffered of={offer} state={state} show={(next) => set({ state: next || undefined, row: undefined })} lookTo={lookTo} />
      )}
      {quick && <QuickChoice due={due} wave={floor.wave} releasing={releasing} close={() => setQuick(false)} />}
    </Page>
  );
}
