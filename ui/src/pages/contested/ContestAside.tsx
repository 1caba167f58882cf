import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { type Schemas } from '../../api/call';
import { useSigned } from '../../base/session';
import { shipRules } from '../../parts/asides';
import { ItemLink, Key, OrderLink } from '../../parts/bits';
import { showDay, showMoney, showNum } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { StandingOf } from '../../parts/StandingOf';
import { WhyAside } from '../../parts/Why';
import { ListsOf } from './ListsOf';
import { WhatIf } from './WhatIf';
import { say } from '../../base/say';

/** What applying would do, and everything else about the claim that is selected. */
export function ContestAside({
  v,
  claim: c,
  room,
}: {
  v: Schemas['ContestView'];
  claim: Schemas['Claim'] | undefined;
  room: () => void;
}) {
  const { may } = useSigned();
  return (
    <>
      <section className="pb-3" aria-live="polite">
        <h2 className="text-lead">{t`If this is applied`}</h2>
        {v.effect.not ? (
          <p className="late mt-1">{say(v.effect.not)}</p>
        ) : v.effect.says.length > 0 ? (
          <ul className="mt-1 space-y-1">
            {v.effect.says.map((said) => (
              <li key={said.text}>{say(said)}</li>
            ))}
          </ul>
        ) : (
          <p className="mt-1 text-mute">
            {v.effect.changes > 0
              ? t`Nobody leaves on another day.`
              : t`No change yet. Give a line more or less with the arrows, type a number, drag a line onto another, or take a policy.`}
          </p>
        )}
        {v.effect.changes === 0 && (
          <p className="mt-2 flex flex-wrap gap-x-2 gap-y-1 text-mute">
            <span>
              <Key>→</Key> {t`more`}
            </span>
            <span>
              <Key>←</Key> {t`less`}
            </span>
            <span>
              <Key>⇧ →</Key> {t`all`}
            </span>
            <span>
              <Key>⇧ ←</Key> {t`none`}
            </span>
          </p>
        )}
      </section>
      <WhatIf key={`${v.sku} ${v.warehouse}`} sku={v.sku} warehouse={v.warehouse} claim={c} />
      {c && (
        <>
          <section className="border-t border-line py-3">
            <h2 className="text-lead">
              <OrderLink number={c.order} /> {c.customer}
            </h2>
            <p className="mt-1 text-mute">
              <Trans>
                line {c.no} wants {showNum(c.wants)} by {showDay(c.ship_by)} · {showMoney(c.value_minor, c.currency)} ·{' '}
                {shipRules[c.ship_rule]} · urgency {c.urgency}
              </Trans>
            </p>
            {c.promised_for && (
              <p className="text-mute">
                <Trans>Promised for {showDay(c.promised_for)}</Trans>
              </p>
            )}
            {c.fixed > 0 && <ListsOf c={c} />}
            {c.other_lines.length > 0 && <p className="mt-2 text-mute">{t`What else is on it`}</p>}
            {c.other_lines.map((o) => (
              <div key={o.no} className="flex h-7 items-center justify-between gap-2">
                <span className="truncate" title={o.item}>
                  <ItemLink sku={o.sku} />{' '}
                  <span className={o.open > o.free ? 'late' : 'text-mute'}>
                    {o.open === 0 ? t`covered` : o.open > o.free ? t`lacks ${showNum(o.open)}` : t`could go`}
                  </span>
                </span>
                <JourneyBar at={o.at} width={72} of={o.sku} />
              </div>
            ))}
            {c.lacks > 0 && may('make room') && (
              <button className="btn btn-sm mt-2 w-full justify-center" onClick={room}>
                {t`Make room among promises`} <Key>M</Key>
              </button>
            )}
          </section>
          <StandingOf code={c.code} />
          <WhyAside line={c.line} />
        </>
      )}
    </>
  );
}
