import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import type { Schemas } from '../api/call';
import { useKey } from '../base/keys/useKey';
import { Key } from './bits';
import { showDay, showNum } from '../base/format';

type House = Schemas['HouseOutlook'];
type Day = Schemas['OutlookDay'];

const width = 908;
const top = 16;
const most = 62; // of the events beneath them
const axis = 34; // at the left

/** The outlook of a house, day by day: what can be promised, what is available but promised, arrivals and promises. */
export function OutlookChart({
  house,
  qty,
  shipBy,
  focus,
  setFocus,
  height = 172,
}: {
  house: House;
  qty: number; // what is asked; 0 for nothing
  shipBy: string;
  focus: string;
  setFocus: (day: string) => void;
  height?: number; // of the bars
}) {
  const days = house.days;
  const greatest = Math.max(qty, 1, ...days.map((d) => Math.max(d.left, d.atp.unlimited ? 0 : d.atp.units)));
  const least = Math.min(0, ...days.map((d) => d.left));
  const step = niceStep((greatest - least) / (height > 100 ? 4 : 2));
  const high = Math.ceil(greatest / step) * step;
  const low = Math.floor(least / step) * step;
  const y = (n: number) => top + height - ((n - low) / (high - low)) * height;
  const w = (width - axis) / days.length;
  const events = days.some((d) => d.arrives > 0) ? most : days.some((d) => d.due > 0) ? most - 18 : 0;
  const x = (i: number) => axis + i * w;
  const lines = [];
  for (let n = low; n <= high; n += step) lines.push(n);
  const big = Math.max(1, ...days.flatMap((d) => [d.arrives, d.due]));
  const showEvery = w < 36 ? 2 : 1;
  return (
    <svg
      viewBox={`0 0 ${width} ${top + height + events + 20}`}
      className="w-full select-none"
      role="img"
      aria-label={inWords(house, qty)}
    >
      <defs>
        <pattern id="spoken" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill="var(--st-promised)" />
          <line x1="0" y1="0" x2="0" y2="5" stroke="var(--st-edge)" strokeWidth="1.4" />
        </pattern>
      </defs>
      {lines.map((n) => (
        <g key={n}>
          <line x1={axis} x2={width} y1={y(n)} y2={y(n)} stroke="var(--color-line)" strokeWidth={n === 0 ? 1.5 : 1} />
          <text x={axis - 6} y={y(n) + 4} textAnchor="end" className="fill-mute text-tiny">
            {showNum(n)}
          </text>
        </g>
      ))}
      {days.map((d, i) => (
        <DayBar
          key={d.day}
          d={d}
          x={x(i)}
          w={w}
          y={y}
          foot={top + height}
          events={events}
          high={high}
          focused={d.day === focus}
          asked={d.day === shipBy}
          label={i % showEvery === 0 || d.day === focus}
          big={big}
          choose={() => setFocus(d.day)}
        />
      ))}
      <path
        d={days
          .map((d, i) => `${i === 0 ? 'M' : 'L'}${x(i)},${y(Math.min(high, d.left))} L${x(i) + w},${y(Math.min(high, d.left))}`)
          .join(' ')}
        fill="none"
        stroke="var(--color-ink)"
        strokeWidth={1.5}
      />
      {qty > 0 && (
        <line x1={axis} x2={width} y1={y(qty)} y2={y(qty)} stroke="var(--color-focus)" strokeDasharray="5 4" strokeWidth={1.3} />
      )}
    </svg>
  );
}

function DayBar({
  d,
  x,
  w,
  y,
  foot,
  events,
  high,
  focused,
  asked,
  label,
  big,
  choose,
}: {
  d: Day;
  x: number;
  w: number;
  y: (n: number) => number;
  foot: number; // where the bars end
  events: number; // how much room there is beneath them
  high: number;
  focused: boolean;
  asked: boolean;
  label: boolean;
  big: number;
  choose: () => void;
}) {
  const base = y(0);
  const can = d.atp.unlimited ? high : d.atp.units;
  const came = d.arrives;
  const due = d.due;
  // Where something comes and something is due on one day, both are drawn small, one beneath the other.
  const both = came > 0 && due > 0;
  const size = (n: number, most: number) => Math.min(8 + (n / big) * 22, most);
  const cameSize = size(came, both ? 14 : 30);
  const dueSize = size(due, both ? 8 : 18);
  const dueAt = foot + 6 + (both ? cameSize + 16 : 0);
  return (
    <g onClick={choose} className="cursor-pointer" data-day={d.day}>
      <title>{`${showDay(d.day)}: ${d.atp.unlimited ? t`no limit` : t`${showNum(d.atp.units)} can be promised`}`}</title>
      <rect x={x} y={top} width={w} height={foot - top + events} fill={focused ? 'var(--focus-ground)' : 'transparent'} />
      {(focused || asked) && (
        <rect x={x} y={top - 3} width={w} height={3} fill={focused ? 'var(--color-focus)' : 'var(--st-edge)'} />
      )}
      {d.left > can && <rect x={x + 1} y={y(d.left)} width={w - 2} height={y(can) - y(d.left)} fill="url(#spoken)" />}
      {d.atp.unlimited ? (
        <rect x={x + 1} y={y(high)} width={w - 2} height={base - y(high)} fill="url(#spoken)" />
      ) : (
        can > 0 && <rect x={x + 1} y={y(can)} width={w - 2} height={base - y(can)} fill="var(--st-allocated)" />
      )}
      {d.left < 0 && <rect x={x + 1} y={base} width={w - 2} height={y(d.left) - base} fill="var(--color-late)" opacity={0.75} />}
      {label && (
        <text
          x={x + w / 2}
          y={d.left < 0 ? y(d.left) + 12 : base - y(can) < 16 ? y(can) - 4 : y(can) + 14}
          textAnchor="middle"
          className="fill-ink text-tiny font-semibold"
        >
          {d.left < 0 ? `−${showNum(-d.left)}` : d.atp.unlimited ? '∞' : showNum(d.atp.units)}
        </text>
      )}
      {came > 0 && (
        <>
          <rect x={x + w / 2 - 7} y={foot + 6} width={14} height={cameSize} rx={2} fill="var(--st-packed)" />
          <text x={x + w / 2} y={foot + 18 + cameSize} textAnchor="middle" className="fill-ink text-tiny">
            +{showNum(came)}
          </text>
        </>
      )}
      {due > 0 && (
        <>
          <rect
            x={x + w / 2 - 7}
            y={dueAt}
            width={14}
            height={dueSize}
            rx={2}
            fill="none"
            stroke="var(--color-ink)"
            strokeWidth={1.3}
          />
          <text x={x + w / 2} y={dueAt + dueSize + 11} textAnchor="middle" className="fill-ink text-tiny">
            −{showNum(due)}
          </text>
        </>
      )}
      {label && (
        <text
          x={x + w / 2}
          y={foot + events + 14}
          textAnchor="middle"
          className={`text-tiny ${focused ? 'fill-ink font-bold' : 'fill-mute'}`}
        >
          {shortDay(d.day)}
        </text>
      )}
    </g>
  );
}

/** Which house is shown, and whether as a picture or as a table. */
export function OutlookChoice({
  houses,
  shown,
  choose,
  table,
  flip,
}: {
  houses: House[];
  shown?: House;
  choose: (warehouse: string) => void;
  table: boolean;
  flip: () => void;
}) {
  return (
    <span className="ml-auto flex shrink-0 gap-2">
      {houses.length > 1 &&
        houses.map((h) => (
          <button
            key={h.warehouse}
            className="btn btn-xs btn-pill"
            aria-pressed={h.warehouse === shown?.warehouse}
            onClick={() => choose(h.warehouse)}
          >
            {h.name || h.warehouse}
          </button>
        ))}
      <AsTable table={table} flip={flip} />
    </span>
  );
}

/** The outlook as a table, or as a picture. */
export function AsTable({ table, flip }: { table: boolean; flip: () => void }) {
  useKey('t', t`The outlook as a table, or as a picture`, flip);
  return (
    <button className="btn btn-xs btn-pill" aria-pressed={table} onClick={flip}>
      {t`As a table`} <Key>T</Key>
    </button>
  );
}

/** The same picture for those who read: every day with its numbers. */
export function OutlookTable({ house }: { house: House }) {
  return (
    <table className="grid-table" aria-label={t`Outlook at ${house.name || house.warehouse}`}>
      <thead>
        <tr>
          <th>{t`Day`}</th>
          <th className="num">{t`Arrives`}</th>
          <th className="num">{t`Promised`}</th>
          <th className="num">{t`Left after all promises`}</th>
          <th className="num">{t`Can be promised`}</th>
        </tr>
      </thead>
      <tbody>
        {house.days.map((d) => (
          <tr key={d.day}>
            <td>{showDay(d.day)}</td>
            <td className="num">{d.arrives > 0 && `+${showNum(d.arrives)}`}</td>
            <td className="num">{d.due > 0 && `−${showNum(d.due)}`}</td>
            <td className="num">
              {d.left < 0 ? (
                <span className="late">
                  <Trans>{showNum(d.left)} · too much is promised</Trans>
                </span>
              ) : (
                showNum(d.left)
              )}
            </td>
            <td className="num font-semibold">{d.atp.unlimited ? t`no limit` : showNum(d.atp.units)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function niceStep(n: number): number {
  const base = 10 ** Math.floor(Math.log10(Math.max(1, n)));
  return Math.max(1, [1, 2, 5, 10].map((m) => m * base).find((s) => s >= n) ?? base);
}

function shortDay(iso: string): string {
  const d = new Date(`${iso}T00:00:00Z`);
  return `${'SMTWTFS'[d.getUTCDay()]} ${d.getUTCDate()}`;
}

/** What the picture shows, in a sentence. */
export function inWords(h: House, qty: number): string {
  const said = [];
  let before = '';
  for (const d of h.days) {
    const now = d.atp.unlimited ? t`no limit` : showNum(d.atp.units);
    if (now !== before) said.push(t`from ${showDay(d.day)} ${now}`);
    before = now;
  }
  const all = h.earliest
    ? t`All ${showNum(qty)} can leave on ${showDay(h.earliest)}.`
    : t`There is no day on which all ${showNum(qty)} can leave.`;
  return t`What can be promised from ${h.name || h.warehouse}: ${said.join(', ')}. ${all}`;
}
