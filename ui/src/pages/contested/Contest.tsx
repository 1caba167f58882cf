import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { Day, Holds, ItemLink, Key, OrderLink, Tier } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { Quantity } from '../../parts/Quantity';
import { MakeRoom } from '../../parts/MakeRoom';
import { noDay, type GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { ContestAside } from './ContestAside';
import { asked, useSteps } from './useSteps';
import { say } from '../../base/say';

type View = Schemas['ContestView'];
type Claim = Schemas['Claim'];
type Step = Schemas['Step'];

const none: Claim[] = [];

/** One contested item: what there is, who wants it, and what moving units would do. Nothing is changed until it is applied. */
export function Contest({ sku, warehouse, next, last }: { sku: string; warehouse: string; next: () => void; last: boolean }) {
  const { may } = useSigned();
  const [tried, setTried] = useState<Record<number, number>>({});
  const [policy, setPolicy] = useState('');
  const [room, setRoom] = useState<Claim>();
  const body = asked({ sku, warehouse }, policy, tried);
  const view = useQuery({
    queryKey: ['contest', body],
    queryFn: ({ signal }) => ask(client.POST('/api/contest', { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const v = view.data;
  const claims = v?.claims ?? none;
  const mine = may('move units');
  const clear = () => {
    setTried({});
    setPolicy('');
  };
  const move = useCommand('/api/move-units', clear);
  const go = useNavigate();
  /** What is tried now, whether it was typed or proposed by a policy. */
  const all = () => Object.fromEntries(claims.filter((c) => c.gets !== c.has).map((c) => [c.line, c.gets]));
  const set = (changes: Record<number, number>) => {
    const now: Record<number, number> = { ...(policy ? all() : tried), ...changes };
    for (const c of claims) if (now[c.line] === c.has) delete now[c.line];
    setPolicy('');
    setTried(now);
  };
  const gets = (c: Claim) => (policy ? c.gets : (tried[c.line] ?? c.has));
  const columns = demand(v, set, gets, mine);
  const grid = useGrid<Claim>({ list: 'demand', one: 'line', rows: claims, columns, idOf: lineOf });
  const row = grid.row;
  const steps = useSteps({ sku, warehouse }, policy, tried, (now) => {
    setPolicy('');
    setTried(now);
  });
  const step = (kind: Step['do']) => row && steps({ do: kind, line: row.line });
  useKey('ArrowRight', t`Give the line a pack more`, () => step('more'), { enabled: mine, repeat: true });
  useKey('ArrowLeft', t`Take a pack from the line`, () => step('less'), { enabled: mine, repeat: true });
  useKey('shift+ArrowRight', t`Give the line all that it wants, as far as there is`, () => step('most'), { enabled: mine });
  useKey('shift+ArrowLeft', t`Take all from the line`, () => step('none'), { enabled: mine });
  const giveBackKept = () => steps({ do: 'kept' });
  const kept = mine && (v?.kept ?? 0) > 0 && (v?.kept_from ?? 0) > 0;
  useKey('b', t`Try giving back what orders on hold keep`, giveBackKept, { enabled: kept });
  useKey('m', t`Make room for the line among the promises`, () => setRoom(row), { enabled: !!row && row.lacks > 0 });
  const changed = (v?.effect.changes ?? 0) > 0 && (policy !== '' || Object.keys(tried).length > 0);
  const can = changed && mine && !v?.effect.not && !move.busy && !view.isFetching;
  const apply = () =>
    v &&
    can &&
    move.run({
      ask: {
        sku,
        warehouse,
        units: v.claims.filter((c) => c.gets !== c.has).map((c) => ({ line: c.line, allocated: c.gets, seen: c.version })),
      },
    });
  /** All that the target lacks comes from the source, as far as it has it. */
  const drag = (from: number, to: number) => {
    if (from !== to && mine) steps({ do: 'over', line: to, from });
  };
  // The same by keys: the units of one line are taken up, and put down on another.
  const [lifted, lift] = useState<Claim>();
  useKey(
    'x',
    lifted ? t`Give the line the units of ${lifted.order}` : t`Take the line's units up, for another line`,
    () => {
      if (lifted && row) drag(lifted.line, row.line);
      lift(lifted ? undefined : row);
    },
    { enabled: mine && row !== undefined },
  );
  useKey('esc', t`Put the units back`, () => lift(undefined), { enabled: lifted !== undefined });
  return (
    <Page
      fill
      aside={v && <ContestAside v={v} claim={row} room={() => setRoom(row)} />}
      tray={changed && v && <Tray v={v} apply={() => void apply()} can={can} clear={clear} next={next} last={last} mine={mine} />}
    >
      <Load of={view}>
        {(d) => (
          <>
            <Supply v={d} />
            {d.kept > 0 && d.kept_from > 0 && (
              <p className="mt-2 flex items-center gap-3">
                <Trans>
                  Kept by {plural(d.kept_by, 'order')} on hold: {plural(d.kept, 'unit')}, while other orders lack{' '}
                  {showNum(d.kept_from)}.
                </Trans>
                <button className="btn btn-sm" disabled={!mine} onClick={giveBackKept}>
                  {t`Try giving them back`} <Key>B</Key>
                </button>
              </p>
            )}
            <div className="mt-3 mb-1 flex items-center gap-3">
              <h2 className="text-lead">{t`Demand`}</h2>
              {lifted && (
                <span role="status" className="text-focus">
                  <Trans>
                    The units of {lifted.order} are taken up: choose a line and press <Key>X</Key>, or <Key>Esc</Key>.
                  </Trans>
                </span>
              )}
              <label className="ml-auto flex items-center gap-2 text-mute">
                {t`As policy`}
                <select
                  className="select select-sm max-w-[180px]"
                  value={policy}
                  disabled={!mine}
                  onChange={(e) => {
                    setTried({});
                    setPolicy(e.target.value);
                  }}
                >
                  <option value="">{t`as it is`}</option>
                  {d.policies.map((p) => (
                    <option key={p}>{p}</option>
                  ))}
                </select>
              </label>
            </div>
            <Chips grid={grid} />
            <div className="flex min-h-[200px] flex-1 flex-col [--row-height:40px]">
              <DataGrid
                grid={grid}
                label={t`Demand`}
                open={(c) => void go({ to: '/orders/$number', params: { number: c.order } })}
                opens={t`Open the order`}
                drags={{
                  can: (c) => mine && gets(c) > 0,
                  drop: (from, onto) => drag(from.line, onto.line),
                  what: (c) => t`Take up the units of ${c.order}`,
                }}
                empty={
                  <Empty title={t`Nobody wants it from here now.`}>
                    {t`All that was ordered is on the floor or gone. Choose another item.`}
                  </Empty>
                }
              />
            </div>
          </>
        )}
      </Load>
      {room && v && (
        <MakeRoom
          ask={{ line: room.line, sku, warehouse, qty: room.lacks, by: room.ship_by < v.today ? v.today : room.ship_by }}
          close={() => setRoom(undefined)}
        />
      )}
    </Page>
  );
}

/** What there is, in order of time: on the shelf, then each arrival. */
function Supply({ v }: { v: View }) {
  const coming = v.coming.filter((a) => !a.overdue);
  const overdue = v.coming.filter((a) => a.overdue);
  const scale = widths(v.shelf + v.coming.reduce((n, a) => n + a.qty, 0));
  const first = coming[0];
  return (
    <section>
      <div className="flex items-baseline gap-3">
        <h2 className="text-title">
          <ItemLink sku={v.sku} /> {v.item}
        </h2>
        <span className="text-mute">{v.house}</span>
        {v.missing > 0 && (
          <span className="late ml-auto">
            <Trans>
              {showNum(v.missing)} short
              {first
                ? t`; ${showNum(first.qty)} come ${showDay(first.due)}`
                : overdue.length > 0
                  ? t`; an arrival is overdue`
                  : t`; nothing is coming`}
            </Trans>
          </span>
        )}
      </div>
      <p className="text-mute">
        <Trans>
          {showNum(v.on_hand)} on hand: {showNum(v.allocated)} allocated, {showNum(v.floor)} on the floor
        </Trans>
        {v.held > 0 && `, ${showNum(v.held)} held`}
        <Trans>, {showNum(v.left)} free</Trans>
        {v.left !== v.free && ' as tried'}{' '}
        <Trans>
          · {plural(v.claims.length, 'line wants')} {showNum(v.wanted)} more
        </Trans>
      </p>
      <div className="mt-2 flex items-end gap-1" role="list" aria-label={t`What there is, in order of time`}>
        <Piece
          w={scale(v.shelf)}
          cls={v.shelf > 0 ? 'bg-(--st-allocated)' : 'border border-dashed border-line'}
          top="on the shelf"
        >
          {v.shelf > 0 ? (
            <>
              {showNum(v.shelf)} <span className="font-normal">{t`here`}</span>
            </>
          ) : (
            'none'
          )}
        </Piece>
        {coming.map((a) => (
          <Piece key={a.ref} w={scale(a.qty)} cls="hatch border border-(--st-edge) bg-(--st-promised)" top={showDay(a.due)}>
            {showNum(a.qty)} <span className="font-normal">{a.ref}</span>
          </Piece>
        ))}
        {overdue.map((a) => (
          <Piece key={a.ref} w={scale(a.qty)} cls="border border-dashed border-late" top={`${showDay(a.due)} · overdue`} late>
            {showNum(a.qty)} <span className="font-normal">{a.ref}</span>
          </Piece>
        ))}
      </div>
    </section>
  );
}

function Piece({
  w,
  cls,
  top,
  late,
  children,
}: {
  w: number;
  cls: string;
  top: string;
  late?: boolean;
  children: React.ReactNode;
}) {
  return (
    <div role="listitem" className="min-w-[74px]" style={{ width: `${w}%` }}>
      <p className={`truncate text-tiny ${late ? 'late' : 'text-mute'}`} title={top}>
        {top}
      </p>
      <p className={`h-[22px] truncate rounded-[4px] px-1.5 leading-[22px] font-semibold ${cls}`}>
        <span className="rounded-[3px] bg-card/80 px-0.5">{children}</span>
      </p>
    </div>
  );
}

/** How wide so many units are, in percent of the row that `most` would fill. */
const widths = (most: number) => (n: number) => (92 * n) / Math.max(1, most);

const facts: GridColumn<Claim>[] = [
  {
    name: 'tier',
    title: t`Tier`,
    kind: 'number',

    by: (c) => c.tier,
    text: (c) => String(c.tier),
    cell: (c) => <Tier n={c.tier} />,
  },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    by: (c) => c.order,
    text: (c) => `${c.order} ${c.no} ${c.customer}`,
    width: 118,
    cell: (c) => (
      <span className="block leading-[15px]" title={t`${c.order} line ${c.no}, ${c.customer}`}>
        <span className="flex items-center gap-1.5">
          <OrderLink number={c.order} />
          <Holds of={c.holds} brief="mark" />
        </span>
        <span className="block truncate text-small text-mute">{c.customer}</span>
      </span>
    ),
  },
  {
    name: 'ship_by',
    title: t`Ship by`,
    kind: 'date',

    by: (c) => c.ship_by,
    text: (c) => showDay(c.ship_by),
    cell: (c) => <Day iso={c.ship_by} />,
  },
  {
    name: 'ready',
    title: t`Ready`,
    hint: t`Open lines of its order that could go in full now`,
    num: true,
    by: (c) => c.ready / Math.max(1, c.open_lines),
    text: (c) => `${c.ready}/${c.open_lines}`,
  },
];

/** Facts, and what each line has and would have. */
function demand(
  v: View | undefined,
  set: (changes: Record<number, number>) => void,
  gets: (c: Claim) => number,
  mine: boolean,
): GridColumn<Claim>[] {
  const most = Math.max(1, ...(v?.claims.map((c) => c.wants + c.fixed) ?? []));
  return [
    ...facts,
    {
      name: 'has',
      title: t`Allocated / short`,
      width: 130,
      grows: true,
      by: (c) => c.has,
      text: (c) => `${c.has} / ${c.lacks}`,
      cell: (c) => <Bar c={c} most={most} />,
    },
    {
      name: 'gets',
      title: t`New quantity`,
      kind: 'number',
      width: 92,
      num: true,
      field: true,
      by: gets,
      text: (c) => String(gets(c)),
      cell: (c) => (
        <Quantity
          value={gets(c)}
          most={c.wants}
          set={(n) => set({ [c.line]: n })}
          label={t`Units for ${c.order} line ${c.no}`}
          disabled={!mine}
        />
      ),
    },
    {
      name: 'lacks',
      title: t`Short`,
      kind: 'number',
      num: true,
      by: (c) => c.lacks,
      text: (c) => (c.lacks > 0 ? showNum(c.lacks) : ''),
    },
    {
      name: 'leaves',
      title: t`Ships on`,
      kind: 'date',

      named: (day) => (day === noDay ? t`no supply due` : undefined),
      by: (c) => c.leaves ?? noDay,
      text: (c) => leaves(c) + (c.late && c.leaves ? t` · late` : ''),
      cell: (c) => <Leaves c={c} />,
      beside: 6,
    },
  ];
}

const lineOf = (c: Claim) => String(c.line);
const leaves = (c: Claim) => (c.leaves ? showDay(c.leaves) : c.holds.length ? t`on hold` : t`no supply due`);

function Leaves({ c }: { c: Claim }) {
  const text = leaves(c);
  const was = c.left ? showDay(c.left) : t`no supply due`;
  return (
    <span className="block leading-[15px]">
      <span className={c.late ? 'late' : ''}>
        {text}
        {c.late && c.leaves && t` · late`}
      </span>
      {text !== was && c.left !== c.leaves && <span className="block text-small text-mute line-through">{was}</span>}
    </span>
  );
}

/** What the line has on the floor, has allocated, would get or give, and lacks; the greatest claim fills the row. */
function Bar({ c, most }: { c: Claim; most: number }) {
  const scale = widths(most);
  const { stays, more, fewer: less, lacks_besides: lacks } = c;
  const says = [
    c.fixed > 0 && `${c.fixed} on the floor`,
    `${c.has} allocated`,
    more > 0 && `${more} more`,
    less > 0 && `${less} fewer`,
    c.lacks > 0 && `${c.lacks} lacking`,
  ]
    .filter(Boolean)
    .join(', ');
  const box = 'h-[20px] overflow-hidden rounded-[3px] px-1 text-tiny leading-[19px] font-semibold whitespace-nowrap';
  return (
    <div role="img" aria-label={says} title={says} className="flex gap-px">
      {c.fixed > 0 && (
        <span className={`${box} min-w-[22px] bg-(--st-picked) text-card`} style={{ width: `${scale(c.fixed)}%` }}>
          {showNum(c.fixed)}
        </span>
      )}
      {stays > 0 && (
        <span className={`${box} min-w-[20px] bg-(--st-allocated)`} style={{ width: `${scale(stays)}%` }}>
          {showNum(stays)}
        </span>
      )}
      {more > 0 && (
        <span
          className={`${box} min-w-[34px] border-[1.5px] border-focus bg-(--st-allocated) leading-[16px] text-ink`}
          style={{ width: `${scale(more)}%` }}
        >
          +{showNum(more)}
        </span>
      )}
      {less > 0 && (
        <span
          className={`${box} min-w-[38px] border-[1.5px] border-dashed border-focus bg-card leading-[16px] text-focus`}
          style={{ width: `${scale(less)}%` }}
        >
          −{showNum(less)}
        </span>
      )}
      {lacks > 0 && (
        <span
          className={`${box} hatch min-w-[12px] border border-(--st-edge) bg-(--st-open)`}
          style={{ width: `${scale(lacks)}%` }}
        />
      )}
    </div>
  );
}

function Tray({
  v,
  apply,
  can,
  clear,
  next,
  last,
  mine,
}: {
  v: View;
  apply: () => void;
  can: boolean;
  clear: () => void;
  next: () => void;
  last: boolean;
  mine: boolean;
}) {
  const e = v.effect;
  return (
    <>
      <span>
        <Trans>
          <b>Tried</b> on {plural(e.changes, 'line')}
        </Trans>
      </span>
      {e.not ? (
        <b className="max-w-[460px] truncate" title={say(e.not)}>
          {say(e.not)}
        </b>
      ) : (
        <>
          <Shift what="Late lines" was={e.was_late} is={e.late} />
          <Shift what="Days late" was={e.was_days_late} is={e.days_late} />
          <Shift what="Complete orders" was={e.was_whole} is={e.whole} />
        </>
      )}
      <span className="ml-auto flex items-center gap-2">
        <Act keys="esc" does={t`Discard the trial`} look="quiet" run={clear}>
          {t`Discard`}
        </Act>
        {!last && (
          <button className="btn btn-sm btn-quiet" onClick={next} title={t`What is tried here is dropped`}>
            {t`Next item`} <Key>]</Key>
          </button>
        )}
        <Act keys="a" does={t`Apply the trial`} why={mine ? '' : t`Moving units is for a coordinator.`} off={!can} run={apply}>
          <Trans>Apply {plural(e.changes, 'change')}</Trans>
        </Act>
      </span>
    </>
  );
}

function Shift({ what, was, is }: { what: string; was: number; is: number }) {
  return (
    <span>
      {what} <b>{was === is ? showNum(is) : `${showNum(was)} → ${showNum(is)}`}</b>
    </span>
  );
}
