import { t } from '@lingui/core/macro';
import type { Counts } from '../api/call';
import { showNum } from '../base/format';

export const stations = ['open', 'allocated', 'released', 'picked', 'packed', 'shipped', 'delivered', 'dropped'] as const;
export type Station = (typeof stations)[number];

/**
 * How the segment of a station is drawn: one hue growing deeper, hatched where there is no unit yet. Its outline can be seen
 * whatever its fill.
 */
export function stationClass(s: Station | 'promised'): string {
  if (s === 'open' || s === 'promised') return 'hatch border border-(--st-edge)';
  if (s === 'dropped') return 'crossed border border-(--st-edge)';
  return 'border border-(--st-edge)';
}

export function stationStyle(s: Station | 'promised'): React.CSSProperties {
  if (s === 'open') return { backgroundColor: 'var(--st-open)' };
  if (s === 'dropped') return {};
  return { backgroundColor: `var(--st-${s})` };
}

/** The segments of the bar: what is open and promised stands by itself, between open and allocated. */
function segments(at: Counts): [Station | 'promised', number][] {
  return stations
    .flatMap((s): [Station | 'promised', number][] =>
      s === 'open'
        ? [
            ['open', at.open - at.promised],
            ['promised', at.promised],
          ]
        : [[s, at[s]]],
    )
    .filter(([, n]) => n > 0);
}

export function tellCounts(at: Counts): string {
  const said = segments(at).map(([s, n]) => `${s} ${showNum(n)}`);
  return said.length ? said.join(', ') : t`no units`;
}

/** Where the units of a line, order, item or customer are, in the order of the journey. */
export function JourneyBar({ at, width = 120, of }: { at: Counts; width?: number | string; of?: string }) {
  const text = `${of ? `${of}: ` : ''}${tellCounts(at)}`;
  return (
    <div role="img" aria-label={text} title={text} className="flex h-2.5 gap-px" style={{ width }}>
      {segments(at).map(([s, n]) => (
        <span
          key={s}
          className={`min-w-[3px] rounded-[2px] ${stationClass(s)}`}
          style={{ ...stationStyle(s), flexGrow: n, flexBasis: 0 }}
        />
      ))}
    </div>
  );
}
