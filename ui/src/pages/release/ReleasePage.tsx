import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useEffect } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { ItemAside, OrderAside } from '../../parts/asides';
import { Day, ItemLink, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showKg, showNum } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { Find, found, useList } from '../../parts/list';
import { Quantity } from '../../parts/Quantity';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { WhyAside } from '../../parts/Why';
import { useReleasing } from './useReleasing';

type Line = Schemas['ReleaseLine'];

/** Everything that could go to the floor, across all orders, and what could not, and why. */
export function ReleasePage() {
  const [s, set] = useList();
  const due = { q: s.q, until: s.until, warehouse: s.warehouse };
  const pages = useInfiniteQuery({
    queryKey: ['release', due],
    queryFn: ({ pageParam: after }) => ask(client.GET('/api/release', { params: { query: { ...due, after } } })),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (p) => p.next,
    placeholderData: keepPreviousData,
  });
  const head = pages.data?.pages[0];
  const lines = pages.data?.pages.flatMap((p) => p.lines) ?? [];
  const focus = useRows(lines, (l) => String(l.id));
  const { fetchNextPage, hasNextPage, isFetching } = pages;
  const nearEnd = lines.length > 0 && focus.index >= lines.length - 3;
  useEffect(() => {
    if (nearEnd && hasNextPage && !isFetching) void fetchNextPage();
  }, [nearEnd, hasNextPage, isFetching, fetchNextPage]);
  const chosen = useReleasing(lines, head, JSON.stringify(due));
  const release = useCommand('/api/release', chosen.none);
  const releaseDue = useCommand('/api/release-due', chosen.none);
  const busy = release.busy || releaseDue.busy;
  const go = useNavigate();
  const toggle = (l: Line) => chosen.set(l, chosen.qty(l) > 0 ? 0 : l.at.allocated);
  const run = () => {
    if (chosen.all) releaseDue.run({ ask: { ...due, until: head?.until, but: chosen.otherwise() } });
    else release.run({ ask: { lines: chosen.otherwise() } });
  };
  const row = focus.row;
  useKey('space, x', 'Choose the line', () => row && (toggle(row), focus.move(1)));
  useKey(
    'o',
    'Choose its whole order',
    () => row && lines.filter((l) => l.order === row.order).forEach((l) => chosen.set(l, l.at.allocated)),
  );
  useKey('shift+a', 'Choose all that could go', chosen.everything, { enabled: lines.length > 0 });
  useKey('esc', 'Choose none', chosen.none, { enabled: chosen.sum.lines > 0 });
  useKey('enter', 'Open the order', () => row && void go({ to: '/orders/$number', params: { number: row.order } }));
  return (
    <Page
      aside={
        row ? (
          <>
            <ItemAside sku={row.sku} warehouse={row.warehouse} />
            <WhyAside line={row.id} />
            <OrderAside number={row.order} except={row.id} />
          </>
        ) : (
          <p className="text-mute">Select a row.</p>
        )
      }
      tray={chosen.sum.lines > 0 && <ReleaseTray of={chosen} run={run} busy={busy} />}
    >
      <PageHead title="Release to the floor" sub={head && `${found({ total: head.offered, more: head.more }, 'line')} could go`}>
        {lines.length > 0 && (
          <button className="pill" aria-pressed={chosen.all} onClick={chosen.all ? chosen.none : chosen.everything}>
            Choose all <Key>⇧A</Key>
          </button>
        )}
        <label className="pill">
          Due by
          <input
            type="date"
            aria-label="Lines to be shipped by this day"
            className="bg-transparent text-ink"
            value={s.until ?? head?.until ?? ''}
            onChange={(e) => set({ until: e.target.value || undefined })}
          />
        </label>
        <select
          aria-label="Warehouse"
          className="field"
          value={s.warehouse ?? ''}
          onChange={(e) => set({ warehouse: e.target.value || undefined })}
        >
          <option value="">Every warehouse</option>
          {head?.warehouses.map((w) => (
            <option key={w}>{w}</option>
          ))}
        </select>
        <Find label="Order, customer, item…" />
      </PageHead>
      <Load of={{ data: head, error: pages.error, refetch: pages.refetch }}>
        {(d) => (
          <>
            {d.lines.length === 0 ? (
              <Empty title="Nothing can be released with these settings.">
                Below is what stands in the way, with counts. Choose a later day to see work that is due later.
              </Empty>
            ) : (
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>Tier</th>
                    <th>Ship by</th>
                    <th>Order</th>
                    <th>Customer</th>
                    <th>Item</th>
                    <th className="num">Allocated</th>
                    <th className="num">Release</th>
                    <th className="num">Ready</th>
                    <th>Progress</th>
                  </tr>
                </thead>
                <tbody>
                  {lines.map((l) => (
                    <tr key={l.id} data-row data-focus={focus.id === String(l.id)} onClick={() => focus.setFocus(String(l.id))}>
                      <td>
                        <Tier n={l.tier} />
                      </td>
                      <td>
                        <Day iso={l.ship_by} late={l.late} />
                      </td>
                      <td>
                        <OrderLink number={l.order} />
                      </td>
                      <td className="max-w-[128px] truncate" title={l.customer}>
                        {l.customer}
                      </td>
                      <td className="max-w-[196px] truncate" title={l.item}>
                        <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
                      </td>
                      <td className="num">{showNum(l.at.allocated)}</td>
                      <td className="num">
                        <span className="inline-flex items-center gap-2">
                          <input
                            type="checkbox"
                            className="checkbox checkbox-xs"
                            aria-label={`Choose ${l.order} line ${l.line}`}
                            checked={chosen.qty(l) > 0}
                            onChange={() => toggle(l)}
                          />
                          <Quantity
                            label={`Units of ${l.order} line ${l.line} to release`}
                            value={chosen.qty(l)}
                            most={l.at.allocated}
                            set={(n) => chosen.set(l, n)}
                          />
                        </span>
                      </td>
                      <td className="num">{`${l.ready}/${l.open_lines}`}</td>
                      <td>
                        <JourneyBar at={l.at} width={84} of={`${l.order} line ${l.line}`} />
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            {hasNextPage && (
              <p className="mt-2 text-mute">
                The {showNum(lines.length)} most urgent lines are listed.{' '}
                <button className="act" disabled={isFetching} onClick={() => void fetchNextPage()}>
                  List more
                </button>
              </p>
            )}
            <NotOffered of={d.not_offered} />
          </>
        )}
      </Load>
    </Page>
  );
}

function NotOffered({ of }: { of: Schemas['NotOffered'][] }) {
  const total = of.reduce((n, x) => n + x.lines, 0);
  if (total === 0)
    return (
      <p className="note-box mt-3 text-mute">Nothing is held back: every line with open or allocated units is listed above.</p>
    );
  return (
    <p className="note-box mt-3">
      <b>Not offered: {plural(total, 'line')}.</b>{' '}
      {of.map((x, i) => (
        <span key={x.reason} className="text-mute">
          {i > 0 && ' · '}
          {x.more && 'more than '}
          {showNum(x.lines)} {x.text}
          {x.note && `, first on ${showDay(x.note)}`}
        </span>
      ))}
    </p>
  );
}

function ReleaseTray({
  of: { sum, all, none },
  run,
  busy,
}: {
  of: ReturnType<typeof useReleasing>;
  run: () => void;
  busy: boolean;
}) {
  const { may } = useSigned();
  const lines = found({ total: sum.lines, more: sum.more }, 'line');
  return (
    <>
      <span>
        <b>{lines}</b>
        {all ? `, all that could go${sum.left > 0 ? ` but ${showNum(sum.left)}` : ''}` : ` of ${plural(sum.orders, 'order')}`}
      </span>
      <span>
        <b>{showNum(sum.units)}</b> units
      </span>
      <span>
        <b>{showKg(sum.weight)}</b>
      </span>
      {all || (
        <span>
          makes <b>{plural(sum.lists, 'pick list')}</b>
        </span>
      )}
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-2" onClick={none}>
          Choose none <Key>Esc</Key>
        </button>
        <Act
          keys="r"
          does="Release the chosen lines"
          why={may('release') ? '' : 'Releasing is for a coordinator.'}
          off={busy}
          run={run}
        >
          Release {sum.more ? `the ${showNum(sum.lines)} most urgent` : lines}
        </Act>
      </span>
    </>
  );
}
