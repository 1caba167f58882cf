import { t } from '@lingui/core/macro';
import { Link, linkOptions, useLocation } from '@tanstack/react-router';
import type { Schemas } from '../api/call';
import { plural, showNum } from '../base/format';
import { inPlace, say } from '../base/say';
import { useStrip } from '../parts/useStrip';
import { stationClass, stationStyle, type Station } from '../parts/JourneyBar';

const places = {
  open: { link: linkOptions({ to: '/open' }), at: ['/open'] },
  promised: { link: linkOptions({ to: '/promise' }), at: ['/promise'] },
  allocated: { link: linkOptions({ to: '/release' }), at: ['/release'] },
  released: { link: linkOptions({ to: '/floor' }), at: ['/floor'] },
  picked: { link: linkOptions({ to: '/packing' }), at: ['/packing'] },
  packed: { link: linkOptions({ to: '/dock' }), at: ['/dock', '/shipments'] },
  shipped: { link: linkOptions({ to: '/dock', search: { state: 'under way' } }), state: 'under way', at: [] },
  delivered: { link: linkOptions({ to: '/dock', search: { state: 'delivered' } }), state: 'delivered', at: [] },
};
/** What is not the floor's, and gives way on a narrow screen. */
const office = ['open', 'promised', 'allocated', 'delivered'];
const placeOf = (station: string) => Object.entries(places).find(([name]) => name === station)?.[1];

/** The journey bar of the whole book, which is also the menu: each station leads to its work. */
export function Strip() {
  const strip = useStrip();
  const list: Schemas['StripStation'][] =
    strip.data?.stations ?? Object.keys(places).map((station) => ({ station, units: 0, lines: 0, waiting: 0, for: inPlace('') }));
  const path = useLocation({ select: (l) => l.pathname });
  const state = useLocation({ select: (l) => (l.search as { state?: string }).state ?? '' });
  const most = Math.max(1, ...list.filter((s) => s.station !== 'delivered').map((s) => s.units));
  return (
    <nav aria-label={t`Stations`} className="flex min-w-0 flex-1 gap-2">
      {list.map((s) => {
        const place = placeOf(s.station);
        if (!place) return null;
        const onDock =
          path === '/dock' && state ? 'state' in place && place.state === state : place.at.some((p) => path.startsWith(p));
        const known = strip.data !== undefined;
        return (
          <Link
            key={s.station}
            {...place.link}
            aria-current={onDock ? 'page' : undefined}
            title={s.waiting > 0 ? `${showNum(s.waiting)} ${say(s.for)}` : undefined}
            className={
              'group min-w-[84px] min-[1200px]:min-w-[104px] rounded-[6px] px-1 pt-1 pb-1.5 hover:bg-paper ' +
              (office.includes(s.station) ? 'max-[1000px]:hidden' : '')
            }
            style={{ flexGrow: 1 + (3 * Math.min(s.units, most)) / most, flexBasis: 0 }}
          >
            <span className="flex h-[18px] items-center justify-between gap-1">
              <span className={`text-small font-semibold capitalize ${onDock ? 'text-focus' : ''}`}>{s.station}</span>
              {s.waiting > 0 && (
                <span
                  className="rounded-full bg-late px-1.5 text-tiny leading-[17px] font-bold text-card"
                  aria-label={`${s.waiting} ${say(s.for)}`}
                >
                  {showNum(s.waiting)}
                </span>
              )}
            </span>
            <span className="block truncate text-tiny leading-[17px] text-mute">
              {known ? `${showNum(s.units)} · ${s.station === 'delivered' ? plural(30, 'day') : plural(s.lines, 'line')}` : '…'}
            </span>
            <span
              className={
                'mt-0.5 block h-[11px] rounded-[3px] ' +
                stationClass(s.station as Station) +
                (onDock ? ' outline-2 outline-offset-2 outline-focus' : '')
              }
              style={stationStyle(s.station as Station)}
            />
          </Link>
        );
      })}
    </nav>
  );
}
