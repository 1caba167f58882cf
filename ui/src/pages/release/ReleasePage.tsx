import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../app/frame';
import { useKey } from '../../app/keys';
import { useSigned } from '../../app/session';
import { ItemAside, OrderAside } from '../../parts/asides';
import { Day, ItemLink, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showKg, showNum } from '../../parts/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { Find, useList } from '../../parts/list';
import { Quantity } from '../../parts/Quantity';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { WhyAside } from '../../parts/Why';

type Line = Schemas['ReleaseLine'];

/** Everything that could go to the floor, across all orders, and what could not, and why. */
export function ReleasePage() {
  const [s, set] = useList();
  const { may } = useSigned();
  const page = useQuery({
    queryKey: ['release', s],
    queryFn: () => ask(client.GET('/api/release', { params: { query: { q: s.q, until: s.until, warehouse: s.warehouse } } })),
    placeholderData: keepPreviousData,
  });
  const lines = page.data?.lines ?? [];
  const focus = useRows(lines, (l) => String(l.id));
  // What was chosen, by line; a line that has changed keeps at most what is allocated now.
  const [asked, setAsked] = useState<Record<number, number>>({});
  const qty = (l: Line) => Math.min(asked[l.id] ?? 0, l.at.allocated);
  const chosen = lines.filter((l) => qty(l) > 0);
  const choose = (l: Line, n: number) => setAsked((was) => ({ ...was, [l.id]: n }));
  const release = useCommand('/api/release', () => setAsked({}));
  const go = useNavigate();
  const toggle = (l: Line) => choose(l, qty(l) > 0 ? 0 : l.at.allocated);
  const run = () => release.run({ ask: { lines: chosen.map((l) => ({ line: l.id, qty: qty(l), seen: l.version })) } });
  const row = focus.row;
  useKey('space, x', 'Choose the line', () => row && (toggle(row), focus.move(1)));
  useKey(
    'o',
    'Choose its whole order',
    () => row && lines.filter((l) => l.order === row.order).forEach((l) => choose(l, l.at.allocated)),
  );
  useKey('shift+a', 'Choose all that is listed', () => setAsked(Object.fromEntries(lines.map((l) => [l.id, l.at.allocated]))));
  useKey('esc', 'Choose none', () => setAsked({}), { enabled: chosen.length > 0 });
  useKey('r', 'Release what is chosen', run, { enabled: chosen.length > 0 && may('release') && !release.busy });
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
          <p className="text-mute">Nothing is in focus.</p>
        )
      }
      tray={
        chosen.length > 0 && <ReleaseTray chosen={chosen} qty={qty} run={run} busy={release.busy} clear={() => setAsked({})} />
      }
    >
      <PageHead
        title="Release to the floor"
        sub={page.data && `${plural(page.data.offered, 'line')} of ${plural(page.data.orders, 'order')} could go`}
      >
        <label className="pill">
          Due by
          <input
            type="date"
            aria-label="Lines to be shipped by this day"
            className="bg-transparent text-ink"
            value={s.until ?? page.data?.until ?? ''}
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
          {page.data?.warehouses.map((w) => (
            <option key={w}>{w}</option>
          ))}
        </select>
        <Find label="Order, customer, item…" />
      </PageHead>
      <Load of={page}>
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
                    <th>Where its units are</th>
                  </tr>
                </thead>
                <tbody>
                  {d.lines.map((l) => (
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
                            checked={qty(l) > 0}
                            onChange={() => toggle(l)}
                          />
                          <Quantity
                            label={`Units of ${l.order} line ${l.line} to release`}
                            value={qty(l)}
                            most={l.at.allocated}
                            set={(n) => choose(l, n)}
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
            {d.offered > d.lines.length && (
              <p className="mt-2 text-mute">
                The {showNum(d.lines.length)} most urgent lines are listed. {plural(d.offered - d.lines.length, 'line')} more
                could go: look for them by order, customer or item.
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
          {showNum(x.lines)} {x.text}
          {x.note && `, first on ${showDay(x.note)}`}
        </span>
      ))}
    </p>
  );
}

function ReleaseTray({
  chosen,
  qty,
  run,
  busy,
  clear,
}: {
  chosen: Line[];
  qty: (l: Line) => number;
  run: () => void;
  busy: boolean;
  clear: () => void;
}) {
  const { may } = useSigned();
  const orders = new Set(chosen.map((l) => l.order)).size;
  const houses = new Set(chosen.map((l) => l.warehouse)).size;
  const units = chosen.reduce((n, l) => n + qty(l), 0);
  const weight = chosen.reduce((g, l) => g + (l.weight_g / Math.max(1, l.at.allocated)) * qty(l), 0);
  return (
    <>
      <span>
        <b>{plural(chosen.length, 'line')}</b> of {plural(orders, 'order')}
      </span>
      <span>
        <b>{showNum(units)}</b> units
      </span>
      <span>
        <b>{showKg(weight)}</b>
      </span>
      <span>
        makes <b>{plural(houses, 'pick list')}</b>
      </span>
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-2" onClick={clear}>
          Choose none <Key>Esc</Key>
        </button>
        <button
          className="act"
          disabled={!may('release') || busy}
          title={may('release') ? undefined : 'for a coordinator'}
          onClick={run}
        >
          Release {plural(chosen.length, 'line')} <Key>R</Key>
        </button>
      </span>
    </>
  );
}
