import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link } from '@tanstack/react-router';
import type { Schemas } from '../../api/call';
import { plural, showDay, showNum } from '../../base/format';

/** Why lines cannot go, in few words. */
const reasons: Record<string, string> = {
  nothing_allocated: t`nothing allocated`,
  on_hold: t`on hold`,
  not_due: t`not due yet`,
  not_before: t`must not leave yet`,
  rule_line: t`line not complete`,
  rule_order: t`order not complete`,
  put_back: t`still to be put back`,
  no_bin: t`no bin set`,
};

/** What to do about lines that cannot go, by the reason. */
const remedies: Record<string, string> = {
  on_hold: t`Lift the hold, or leave them until it is lifted.`,
  not_due: t`Release until a later day to bring them in.`,
  not_before: t`Release until the day on which they may leave to bring them in.`,
  rule_line: t`Allocate the rest of the line, or drop it on the order’s page.`,
  rule_order: t`Allocate the rest of the order, or drop it on its page.`,
  put_back: t`Units were recalled: put them into their bins first.`,
  no_bin: t`Say in which bin the item lies.`,
};

/** What is not offered and why, as counts by reason, each of which opens its list; and what a later day would bring in. */
export function NotOffered({
  of,
  state,
  show,
  lookTo,
}: {
  of: Schemas['Offer'];
  state: string;
  show: (state: string) => void;
  lookTo: (day: string) => void;
}) {
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
              {showNum(x.lines)} {reasons[x.reason] ?? x.reason}
              {x.note && t`, first ${showDay(x.note)}`}
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
      {of.later.length > 0 && (
        <p className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1 text-mute" aria-label={t`Later days`}>
          {t`Lines that a later day brings in:`}
          {of.later.map((d) => (
            <button key={d.day} className="btn btn-xs btn-pill" onClick={() => lookTo(d.day)}>
              {showDay(d.day)} +{showNum(d.lines)}
            </button>
          ))}
        </p>
      )}
    </section>
  );
}
