import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import type { Schemas } from '../../api/call';
import { useKey } from '../../base/keys/useKey';
import { plural, showDay, showNum } from '../../base/format';
import { Key } from '../../parts/bits';
import { useList } from '../../parts/list';
import { roomFor, summary } from '../../parts/MakeRoom';
import { say } from '../../base/say';

type A = Schemas['PromiseAnswer'];
type Way = Schemas['PromiseWay'];

const titles: Record<Way['kind'], (a: A, w: Way) => string> = {
  by: () => t`As it becomes available`,
  whole: () => t`All together`,
  houses: (_, w) =>
    t`With help from ${
      w.from
        .slice(1)
        .map((f) => f.warehouse)
        .join(' and ') || 'elsewhere'
    }`,
};

/** Each way to serve the customer in a row of one comparison, ours and the less obvious ones; a key takes it. */
export function Ways({
  a,
  way,
  choose,
  room,
}: {
  a: A;
  way: Way | undefined;
  choose: (kind: Way['kind']) => void;
  /** Asks what making room would do, if promises could give way and one may have them do. */
  room?: { ask: Schemas['RoomAsk']; open: () => void };
}) {
  const [, set] = useList();
  const own = a.ways.length;
  return (
    <table className="grid-table" role="grid" aria-label={t`Ways to serve it`}>
      <thead>
        <tr>
          <th className="w-9" aria-label={t`Key`} />
          <th>{t`Way`}</th>
          <th className="num">
            <Trans>By {showDay(a.wished)}</Trans>
          </th>
          <th>{t`Leaves`}</th>
          <th>{t`All of it there`}</th>
          <th className="num">{t`Shipments`}</th>
          <th>{t`Late`}</th>
          <th>{t`Touched`}</th>
        </tr>
      </thead>
      <tbody>
        {a.ways.map((w, i) => (
          <Row key={w.kind} k={i + 1} title={titles[w.kind](a, w)} on={w === way} run={() => choose(w.kind)}>
            <td className="num">
              <Trans>
                <b className="font-head text-head">{showNum(w.by_wish)}</b> of {showNum(a.qty)}
              </Trans>
            </td>
            <td className="!whitespace-normal">{leaves(a, w)}</td>
            <td>
              {w.short > 0 ? (
                <span className="late">
                  <Trans>{showNum(w.short)}: no supply due</Trans>
                </span>
              ) : (
                showDay(w.arrives.at(-1) ?? '')
              )}
            </td>
            <td className="num">{w.parts.length || ''}</td>
            <td>
              {w.late_days > 0 ? <span className="late">{plural(w.late_days, 'day')}</span> : w.parts.length > 0 && t`in time`}
            </td>
            <td className="text-mute">{t`nobody`}</td>
          </Row>
        ))}
        {room && <RoomRow k={own + 1} ask={room.ask} open={room.open} />}
        {a.instead.map((x, i) => (
          <Row
            key={x.sku + x.warehouse}
            k={own + (room ? 2 : 1) + i}
            title={t`${x.sku} in its place`}
            run={() => set({ sku: x.sku, line: undefined, warehouse: undefined })}
          >
            <td className="num">
              <Trans>
                <b className="font-head text-head">{showNum(Math.min(x.free, a.qty))}</b> of {showNum(a.qty)}
              </Trans>
            </td>
            <td colSpan={4} className="text-mute">
              <Trans>
                {x.name}, another {x.kind}: {showNum(x.free)} free at {x.warehouse}
              </Trans>
            </td>
            <td className="text-mute">{t`the customer, who agrees to it`}</td>
          </Row>
        ))}
      </tbody>
    </table>
  );
}

function leaves(a: A, w: Way): string {
  if (w.parts.length === 0) return '';
  return w.parts
    .map(
      (p) =>
        `${w.parts.length > 1 ? `${showNum(p.qty)} ` : ''}${showDay(p.day)}${p.warehouse === a.warehouse ? '' : t` from ${p.warehouse}`}`,
    )
    .join(', ');
}

function RoomRow({ k, ask, open }: { k: number; ask: Schemas['RoomAsk']; open: () => void }) {
  const room = useQuery(roomFor({ ...ask, fixed: [] }));
  const v = room.data;
  const best = v?.ways[0];
  const says = !v
    ? (room.error?.message ?? '…')
    : v.fits
      ? t`It fits as it is`
      : !v.possible
        ? say(v.why)
        : t`Promises to others are postponed, at the least harm`;
  return (
    <Row k={k} title={t`Make room`} run={open}>
      <td className="num">
        {v && (
          <>
            <Trans>
              <b className="font-head text-head">{showNum(v.possible || v.fits ? v.qty : 0)}</b> of {showNum(v.qty)}
            </Trans>
          </>
        )}
      </td>
      <td colSpan={4} className="!whitespace-normal text-mute">
        {says}
      </td>
      <td>{v?.possible && !v.fits && best && summary(best)}</td>
    </Row>
  );
}

function Row({
  k,
  title,
  on = false,
  run,
  children,
}: {
  k: number;
  title: string;
  on?: boolean;
  run: () => void;
  children: ReactNode;
}) {
  useKey(String(k), t`Take the way “${title}”`, run, { group: t`Ways`, enabled: k < 10 });
  return (
    <tr data-row data-focus={on} aria-selected={on} onClick={run}>
      <td>
        <Key>{k}</Key>
      </td>
      <td>
        <button aria-pressed={on} aria-keyshortcuts={String(k)} className="cursor-pointer text-left font-semibold">
          {title}
        </button>
      </td>
      {children}
    </tr>
  );
}
