import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link, useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showDay, showNum, showSpan, showTime, showWalk } from '../../base/format';
import { useSigned } from '../../base/session';
import { Day, PageHead, Tier } from '../../parts/bits';
import { CutOffIn } from '../../parts/CutOffIn';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { Act } from '../../parts/Act';
import { Page } from '../../parts/Page';
import { Hand } from './Hand';
import { Empty } from '../../parts/states';

type List = Schemas['ListView'];

const leftOf = (l: List) => (l.due > 0 ? t`${showNum(l.due)} units in ${plural(l.rows_due, 'row')}` : t`nothing`);

const columns: GridColumn<List>[] = [
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (l) => String(l.tier), cell: (l) => <Tier n={l.tier} /> },
  {
    name: 'first_ship',
    title: t`First ships`,
    kind: 'date',
    group: true,
    text: (l) => showDay(l.first_ship) + (l.late ? ' · late' : ''),
    cell: (l) => <Day iso={l.first_ship} late={l.late} />,
    beside: 6,
  },
  {
    name: 'number',
    title: t`Pick list`,
    kind: 'text',
    beside: 8,
    text: (l) => l.number,
    cell: (l) => (
      <Link to="/floor/$number" params={{ number: l.number }} className="ref">
        {l.number}
      </Link>
    ),
  },
  { name: 'warehouse', title: t`Warehouse`, kind: 'text', group: true, text: (l) => l.warehouse },
  { name: 'zone', title: t`Zone`, kind: 'text', group: true, aside: 'narrow', text: (l) => l.zone ?? '' },
  { name: 'orders', title: t`Orders`, kind: 'number', num: true, text: (l) => showNum(l.orders) },
  { name: 'rows', title: t`Rows`, kind: 'number', num: true, aside: 'small', text: (l) => showNum(l.rows), sum: showNum },
  { name: 'units', title: t`Units`, kind: 'number', num: true, text: (l) => showNum(l.units), sum: showNum },
  { name: 'due', title: t`Still to pick`, kind: 'number', text: leftOf, sum: showNum },
  {
    name: 'short',
    title: t`Short`,
    kind: 'number',
    num: true,
    text: (l) => (l.short > 0 ? showNum(l.short) : ''),
    cell: (l) => l.short > 0 && <span className="late">{showNum(l.short)}</span>,
    sum: showNum,
    hint: t`Units that were not found in their bin`,
  },
  {
    name: 'work',
    title: t`Time`,
    kind: 'number',
    num: true,
    aside: 'small',
    text: (l) => (l.seconds ? showSpan(l.seconds) : ''),
    hint: t`How long all of it should take`,
    sum: showSpan,
  },
  {
    name: 'walk',
    title: t`Walk`,
    kind: 'number',
    num: true,
    aside: 'narrow',
    text: (l) => (l.walk_cm ? showWalk(l.walk_cm) : ''),
    sum: showWalk,
  },
  {
    name: 'picker',
    title: t`Picked by`,
    kind: 'text',
    group: true,
    cut: true,
    text: (l) => (l.break ? t`${l.picker ?? ''} · on a break` : (l.picker ?? '')),
    cell: (l) =>
      l.break ? (
        <>
          {l.picker} <span className="late">{t`on a break`}</span>
        </>
      ) : (
        (l.picker ?? <span className="text-mute">{t`nobody`}</span>)
      ),
  },
  { name: 'cut_off', title: t`Carrier`, aside: 'small', width: 150, text: () => '', cell: (l) => <CutOffIn of={l} brief /> },
  { name: 'who', title: t`Released by`, kind: 'text', group: true, cut: true, aside: true, text: (l) => l.who },
  { name: 'released', title: t`Released`, kind: 'moment', aside: 'narrow', text: (l) => showTime(l.at) },
];

const idOf = (l: List) => l.number;

/** The pick lists on the floor, oldest first, and those that are done. */
export function FloorPage() {
  const { state } = useList()[0];
  const go = useNavigate();
  const { may } = useSigned();
  const [handing, setHanding] = useState<List>();
  const grid = useGrid<List>({
    list: 'pick-lists',
    one: 'pick list',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/pick-lists', { params: { query: q }, signal }));
      return { rows: d.lists, next: d.next };
    },
    columns,
    idOf,
    scope: { state },
  });
  return (
    <Page fill>
      <PageHead title={t`Released: pick lists`} sub={<Found grid={grid} />}>
        <Choice
          name="state"
          options={[
            ['', t`To be picked`],
            ['done', t`Picked`],
            ['all', t`All`],
          ]}
        />
        {may('hand over a pick list') && (
          <Act keys="h" does={t`Hand the pick list to somebody`} off={!grid.row} run={() => setHanding(grid.row)}>
            {t`Hand to…`}
          </Act>
        )}
        {may('pick') && (
          <Link to="/pick" className="btn btn-sm">
            {t`Pick by scanning`}
          </Link>
        )}
        <GroupBy grid={grid} />
        <Find label={t`Number, order, item…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Pick lists`}
        open={(l) => void go({ to: '/floor/$number', params: { number: l.number } })}
        opens={t`Open the pick list`}
        empty={
          grid.search.q || grid.search.only ? (
            <Empty title={t`No pick list fits this.`}>
              {t`Take a filter away, or look for part of a number, an order, a customer or an item.`}
            </Empty>
          ) : (
            <Empty title={state ? t`Nothing has been picked yet.` : t`Nothing is left to pick.`}>
              <Trans>
                Pick lists appear here when allocated lines are{' '}
                <Link to="/release" className="ref">
                  released
                </Link>
                .
              </Trans>
            </Empty>
          )
        }
      />
      {handing && <Hand list={handing} close={() => setHanding(undefined)} />}
    </Page>
  );
}
