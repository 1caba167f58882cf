import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { DayField } from '../../parts/DayField';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useMemo } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { ItemAside, OrderAside } from '../../parts/asides';
import { Day, ItemLink, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showKg, showNum } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { pageQuery, whole, type PageOf } from '../../parts/grid/pages';
import { useGrid, type GridOptions } from '../../parts/grid/useGrid';
import { JourneyBar, tellCounts } from '../../parts/JourneyBar';
import { Find, found, useList } from '../../parts/list';
import { Quantity } from '../../parts/Quantity';
import { Empty } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { WhyAside } from '../../parts/Why';
import { useEffectOf, useReleasing, type Head, type Line, type Releasing } from './useReleasing';
import { say } from '../../base/say';

const facts: GridColumn<Line>[] = [
  { name: 'tier', title: t`Tier`, text: (l) => String(l.tier), cell: (l) => <Tier n={l.tier} /> },
  {
    name: 'ship_by',
    title: t`Ship by`,
    text: (l) => showDay(l.ship_by) + (l.late ? ' · late' : ''),
    cell: (l) => <Day iso={l.ship_by} late={l.late} />,
    beside: (l) => (l.late ? 8 : 0),
  },
  { name: 'order', title: t`Order`, text: (l) => l.order, cell: (l) => <OrderLink number={l.order} />, beside: 8 },
  { name: 'customer', title: t`Customer`, cut: true, text: (l) => l.customer },
  {
    name: 'item',
    title: t`Item`,
    cut: true,
    text: (l) => `${l.sku} ${l.item}`,
    cell: (l) => (
      <>
        <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
      </>
    ),
    beside: 8,
  },
  { name: 'allocated', title: t`Allocated`, num: true, text: (l) => showNum(l.at.allocated) },
];
const progress: GridColumn<Line>[] = [
  { name: 'ready', title: t`Ready`, num: true, text: (l) => `${l.ready}/${l.open_lines}` },
  {
    name: 'progress',
    title: t`Progress`,
    width: 84,
    grows: true,
    text: (l) => tellCounts(l.at),
    cell: (l) => <JourneyBar at={l.at} width="100%" of={`${l.order} line ${l.line}`} />,
  },
];

const idOf = (l: Line) => String(l.id);

const fetchPage: GridOptions<Line>['fetch'] = async ({ after, ...q }, signal) => {
  const { q: words, until, warehouse } = q as { q?: string; until?: string; warehouse?: string };
  const { lines, next, ...head } = await ask(
    client.GET('/api/release', { params: { query: { q: words, until, warehouse, after } }, signal }),
  );
  return { rows: lines, next, head };
};

/** Everything that could go to the floor, across all orders, and what could not, and why. */
export function ReleasePage() {
  const [s, set] = useList();
  const due = { q: s.q, until: s.until, warehouse: s.warehouse };
  const releasing = useReleasing(JSON.stringify(due));
  const columns = useMemo<GridColumn<Line>[]>(
    () => [
      ...facts,
      {
        name: 'release',
        title: t`Release`,
        num: true,
        width: 112,
        text: (l) => showNum(releasing.qty(l)),
        cell: (l) => (
          <span className="inline-flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              aria-label={t`Choose ${l.order} line ${l.line}`}
              checked={releasing.qty(l) > 0}
              onChange={() => releasing.toggle(l)}
            />
            <Quantity
              label={t`Units of ${l.order} line ${l.line} to release`}
              value={releasing.qty(l)}
              most={l.at.allocated}
              set={(n) => releasing.set(l, n)}
            />
          </span>
        ),
      },
      ...progress,
    ],
    [releasing],
  );
  const grid = useGrid<Line>({
    list: 'release',
    one: 'line',
    fetch: fetchPage,
    asked: { until: s.until, warehouse: s.warehouse },
    columns,
    idOf,
    knows: true,
  });
  const queries = useQueryClient();
  const first = useQuery(pageQuery(queries, grid.source, grid.query, whole, ''));
  const head = (first.data as PageOf<Line, Head> | undefined)?.head;
  const lines = grid.loaded;
  const effect = useEffectOf(releasing, lines, due);
  const release = useCommand('/api/release', releasing.none);
  const releaseDue = useCommand('/api/release-due', releasing.none);
  const busy = release.busy || releaseDue.busy;
  const go = useNavigate();
  const run = () => {
    const otherwise = releasing.otherwise(lines).map((l) => ({ line: l.id, qty: releasing.qty(l), seen: l.version }));
    if (releasing.all) releaseDue.run({ ask: { ...due, until: head?.until, but: otherwise } });
    else release.run({ ask: { lines: otherwise } });
  };
  const row = grid.row;
  const beside = grid.beside.row;
  useKey('space, x', t`Choose the line`, () => row && (releasing.toggle(row), grid.step.current(1)), inList);
  useKey(
    'o',
    t`Choose its whole order`,
    () => row && lines.filter((l) => l.order === row.order).forEach((l) => releasing.set(l, l.at.allocated)),
    inList,
  );
  useKey('shift+a', t`Choose all that could go`, releasing.everything, { enabled: (head?.offered ?? 0) > 0 });
  useKey('esc', t`Choose none`, releasing.none, { enabled: effect !== undefined });
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
      tray={effect && <ReleaseTray of={releasing} sum={effect.sum} run={run} busy={busy} />}
    >
      <PageHead
        title={t`Release to the floor`}
        sub={head && t`${found({ total: head.offered, more: head.more }, 'line')} could go`}
      >
        {(head?.offered ?? 0) > 0 && (
          <button
            className="btn btn-xs btn-pill"
            aria-pressed={releasing.all}
            onClick={releasing.all ? releasing.none : releasing.everything}
          >
            {t`Choose all`} <Key>⇧A</Key>
          </button>
        )}
        <span className="flex items-center gap-1.5 text-mute">
          {t`Due by`}
          <DayField
            label={t`Lines to be shipped by this day`}
            width={112}
            value={s.until ?? head?.until ?? ''}
            set={(until) => set({ until: until || undefined })}
          />
        </span>
        <select
          aria-label={t`Warehouse`}
          className="select select-sm"
          value={s.warehouse ?? ''}
          onChange={(e) => set({ warehouse: e.target.value || undefined })}
        >
          <option value="">{t`Every warehouse`}</option>
          {head?.warehouses.map((w) => (
            <option key={w}>{w}</option>
          ))}
        </select>
        <Find label={t`Order, customer, item…`} />
      </PageHead>
      <DataGrid
        grid={grid}
        label={t`Lines that could go`}
        open={(l) => void go({ to: '/orders/$number', params: { number: l.order } })}
        opens={t`Open the order`}
        empty={
          <Empty title={t`Nothing can be released with these settings.`}>
            {t`Below is what stands in the way, with counts. Choose a later day to see work that is due later.`}
          </Empty>
        }
      />
      {head && <NotOffered of={head.not_offered} />}
    </Page>
  );
}

const inList = { group: t`In the list` };

function NotOffered({ of }: { of: Schemas['NotOffered'][] }) {
  const total = of.reduce((n, x) => n + x.lines, 0);
  if (total === 0)
    return (
      <p className="alert note-box mt-3 text-mute">
        {t`Nothing is held back: every line with open or allocated units is listed above.`}
      </p>
    );
  return (
    <p className="alert note-box mt-3">
      <b>
        <Trans>Not offered: {plural(total, 'line')}.</Trans>
      </b>{' '}
      {of.map((x, i) => (
        <span key={x.reason} className="text-mute">
          {i > 0 && ' · '}
          {x.more && t`more than `}
          {showNum(x.lines)} {say(x.text)}
          {x.note && t`, first on ${showDay(x.note)}`}
        </span>
      ))}
    </p>
  );
}

function ReleaseTray({
  of: { all, none },
  sum,
  run,
  busy,
}: {
  of: Releasing;
  sum: Schemas['ReleaseEffect'] | undefined;
  run: () => void;
  busy: boolean;
}) {
  const { may } = useSigned();
  const lines = sum ? found({ total: sum.lines, more: sum.more }, 'line') : '';
  return (
    <>
      <span>
        <b>{lines}</b>
        {all
          ? t`, all that could go${sum && sum.but > 0 ? t` but ${showNum(sum.but)}` : ''}`
          : sum && t` of ${plural(sum.orders ?? 0, 'order')}`}
      </span>
      <span>
        <b>{sum && showNum(sum.units)}</b> {t`units`}
      </span>
      <span>
        <b>{sum && showKg(sum.weight_g)}</b>
      </span>
      {all || (
        <span>
          {t`makes`} <b>{sum && plural(sum.lists ?? 0, 'pick list')}</b>
        </span>
      )}
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-2" onClick={none}>
          {t`Choose none`} <Key>{t`Esc`}</Key>
        </button>
        <Act
          keys="r"
          does={t`Release the chosen lines`}
          why={may('release') ? '' : t`Releasing is for a coordinator.`}
          off={busy}
          run={run}
        >
          <Trans>Release {sum?.more ? t`the ${showNum(sum.lines)} most urgent` : lines}</Trans>
        </Act>
      </span>
    </>
  );
}
