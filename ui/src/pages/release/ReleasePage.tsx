import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { useEffect } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showDay, showKg, showMoney, showNum, showSum } from '../../base/format';
import { useKey } from '../../base/keys/useKey';
import { questions } from '../../base/questions';
import { say } from '../../base/say';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { Act } from '../../parts/Act';
import { ItemAside, OrderAside } from '../../parts/asides';
import { Day, ItemLink, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { DayField } from '../../parts/DayField';
import { chooseAll } from '../../parts/grid/chooseAll';
import { Changed } from '../../parts/grid/Changed';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid, type Grid } from '../../parts/grid/useGrid';
import { JourneyBar, tellCounts } from '../../parts/JourneyBar';
import { Find, useList } from '../../parts/list';
import { Page } from '../../parts/Page';
import { Quantity } from '../../parts/Quantity';
import { Empty } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { WhyAside } from '../../parts/Why';
import { ReleasingContext, useEffectOf, useInRelease, useReleasing, type Line, type Releasing } from './useReleasing';

const facts: GridColumn<Line>[] = [
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (l) => String(l.tier), cell: (l) => <Tier n={l.tier} /> },
  {
    name: 'ship_by',
    title: t`Ship by`,
    kind: 'date',
    group: true,
    text: (l) => showDay(l.ship_by) + (l.late ? ' · late' : ''),
    cell: (l) => <Day iso={l.ship_by} late={l.late} />,
    beside: (l) => (l.late ? 8 : 0),
  },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    group: true,
    text: (l) => l.order,
    cell: (l) => <OrderLink number={l.order} />,
    beside: 8,
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (l) => l.customer },
  {
    name: 'item',
    title: t`Item`,
    kind: 'text',
    group: true,
    cut: true,
    text: (l) => `${l.sku} ${l.item}`,
    cell: (l) => (
      <>
        <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
      </>
    ),
    beside: 8,
  },
  { name: 'warehouse', title: t`At`, kind: 'text', group: t`warehouse`, hint: t`Warehouse`, text: (l) => l.warehouse },
  { name: 'allocated', title: t`Allocated`, kind: 'number', num: true, text: (l) => showNum(l.at.allocated), sum: showNum },
];

const release: GridColumn<Line> = {
  name: 'release',
  title: t`Release`,
  num: true,
  width: 84,
  text: (l) => showNum(l.at.allocated),
  file: [],
  cell: (l) => <Goes of={l} />,
};

const more: GridColumn<Line>[] = [
  {
    name: 'ready',
    title: t`Ready`,
    num: true,
    hint: t`Open lines of its order that could go in full now, of its open lines`,
    text: (l) => `${l.ready}/${l.open_lines}`,
    file: ['order_open'],
  },
  {
    name: 'progress',
    title: t`Progress`,
    width: 84,
    grows: true,
    text: (l) => tellCounts(l.at),
    cell: (l) => <JourneyBar at={l.at} width="100%" of={`${l.order} line ${l.line}`} />,
    file: ['ordered', 'open', 'allocated'],
  },
  {
    name: 'order_open',
    title: t`Open of its order`,
    kind: 'number',
    num: true,
    aside: true,
    hint: t`Units of its order that nothing is allocated for: with none, the order is completed`,
    text: (l) => showNum(l.order_open),
  },
  {
    name: 'ordered',
    title: t`Ordered`,
    kind: 'number',
    num: true,
    aside: true,
    text: (l) => showNum(l.at.ordered),
    sum: showNum,
  },
  { name: 'open', title: t`Open`, kind: 'number', num: true, aside: true, text: (l) => showNum(l.at.open), sum: showNum },
  { name: 'weight', title: t`Weight`, kind: 'weight', num: true, aside: true, text: (l) => showKg(l.weight_g), sum: showKg },
  {
    name: 'value',
    title: t`Value`,
    kind: 'money',
    num: true,
    aside: true,
    text: (l) => showMoney(l.value_minor, l.currency),
    sum: showSum,
  },
];

const idOf = (l: Line) => String(l.id);
const versionOf = (l: Line) => l.version;
const adds = ['allocated', 'weight'];
const columnsOf = { could: [...facts, release, ...more], kept: [...facts, ...more] };

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
    adds,
    knows: true,
  });
  const releasing = useReleasing(grid);
  // What was chosen could go by the day that was asked for.
  useEffect(releasing.none, [s.until, s.warehouse, state]); // eslint-disable-line react-hooks/exhaustive-deps
  const offer = useQuery(questions.releasable(due)).data;
  const { tell } = useToasts();
  const go = useNavigate();
  const row = grid.row;
  const beside = grid.beside.row;
  useKey(
    'o',
    t`Choose its whole order`,
    () => row && grid.loaded.filter((l) => l.order === row.order).forEach((l) => releasing.set(l, l.at.allocated)),
    { group: t`In the list`, enabled: grid.chooses },
  );
  useKey('shift+a', t`Choose all that could go`, () => void chooseAll(grid, tell), {
    enabled: grid.chooses,
  });
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
      tray={grid.choice.size > 0 && <ReleaseTray grid={grid} of={releasing} />}
    >
      <PageHead title={t`Release to the floor`} sub={<Found grid={grid} also={() => (state ? '' : t` could go`)} />}>
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
      </ReleasingContext>
      {offer && <NotOffered of={offer} state={state} show={(next) => set({ state: next || undefined, row: undefined })} />}
    </Page>
  );
}

/** How much of a line goes, if it was chosen. */
function Goes({ of: l }: { of: Line }) {
  const releasing = useInRelease();
  return (
    releasing && (
      <Quantity
        label={t`Units of ${l.order} line ${l.line} to release`}
        value={releasing.qty(l)}
        most={l.at.allocated}
        set={(n) => releasing.set(l, n)}
      />
    )
  );
}

/** What to do about lines that cannot go, by the reason. */
const remedies: Record<string, string> = {
  on_hold: t`Whoever may lift the hold does so on the order’s page.`,
  not_due: t`Choose a later day above to bring them in.`,
  rule_line: t`Allocate the rest of the line, or drop it, on the order’s page.`,
  rule_order: t`Allocate the rest of the order, or drop it, on its page.`,
  no_bin: t`Count or receive the item into a bin, on its page.`,
};

/** What is not offered and why, as counts by reason, each of which opens its list. */
function NotOffered({ of, state, show }: { of: Schemas['Offer']; state: string; show: (state: string) => void }) {
  const total = of.not_offered.reduce((n, x) => n + x.lines, 0);
  if (total === 0 && !state)
    return (
      <p className="alert note-box mt-3 text-mute">
        {t`Nothing is held back: every line with open or allocated units is listed above.`}
      </p>
    );
  return (
    <section aria-label={t`Not offered`} className="alert note-box mt-3">
      <p className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <b>
          <Trans>Not offered: {plural(total, 'line')}.</Trans>
        </b>
        {of.not_offered.map((x) => {
          const text = (
            <>
              {x.more && t`more than `}
              {showNum(x.lines)} {say(x.text)}
              {x.note && t`, first on ${showDay(x.note)}`}
            </>
          );
          return x.reason === 'nothing_allocated' ? (
            <Link key={x.reason} to="/open" className="btn btn-xs btn-pill">
              {text}
            </Link>
          ) : (
            <button
              key={x.reason}
              className="btn btn-xs btn-pill"
              aria-pressed={state === x.reason}
              onClick={() => show(state === x.reason ? '' : x.reason)}
            >
              {text}
            </button>
          );
        })}
        {state && (
          <span className="text-mute">
            {remedies[state]}{' '}
            <button className="ref cursor-pointer" onClick={() => show('')}>
              {t`Back to what could go`}
            </button>
          </span>
        )}
      </p>
    </section>
  );
}

function ReleaseTray({ grid, of }: { grid: Grid<Line>; of: Releasing }) {
  const { may } = useSigned();
  const { choice, changed } = grid;
  const sum = useEffectOf(of);
  const release = useCommand('/api/release', of.none);
  return (
    <>
      <span>
        <b>{plural(choice.size, 'line')}</b>
        {sum && t` of ${plural(sum.orders, 'order')}`}
      </span>
      <span>
        <b>{sum && showNum(sum.units)}</b> {t`units`}
      </span>
      <span>
        <b>{sum && showKg(sum.weight_g)}</b>
      </span>
      {changed.length > 0 ? (
        <Changed grid={grid} />
      ) : (
        <span>
          {t`makes`} <b>{sum && plural(sum.lists, 'pick list')}</b>
        </span>
      )}
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-2" onClick={of.none}>
          {t`Choose none`} <Key>{t`Esc`}</Key>
        </button>
        <Act
          keys="r"
          does={t`Release the chosen lines`}
          why={may('release') ? '' : t`Releasing is for a coordinator.`}
          off={release.busy || changed.length > 0}
          run={() => release.run({ ask: { lines: of.lines } })}
        >
          <Trans>Release {plural(choice.size, 'line')}</Trans>
        </Act>
      </span>
    </>
  );
}
