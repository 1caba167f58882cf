import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { type Schemas } from '../../api/call';
import { OrderLink } from '../../parts/bits';
import { plural, showDay, showMoney, showNum } from '../../base/format';
import { say } from '../../base/say';

type View = Schemas['RunView'];
type Effect = Schemas['TierEffect'];

/** What each plan does, in all and tier by tier; the plan that would be applied is marked. */
export function RunTotals({ v, plan, setPlan }: { v: View; plan: number; setPlan: (n: number) => void }) {
  const two = v.plans.length > 1;
  const tiers = [...new Set(v.plans.flatMap((p) => p.tiers.map((tier) => tier.tier)))].sort();
  const rows: { name: string; of: (p: Schemas['RunPlan']) => Effect | undefined; all?: boolean }[] = [
    { name: 'All', of: (p) => p.all, all: true },
    ...tiers.map((tier) => ({ name: `Tier ${tier}`, of: (p: Schemas['RunPlan']) => p.tiers.find((x) => x.tier === tier) })),
  ];
  return (
    <section className="mb-4">
      <table className="grid-table w-auto!">
        <thead>
          <tr>
            <th rowSpan={2} className="align-bottom">
              {say(v.scope)}
            </th>
            {v.plans.map((p, i) => (
              <th
                key={p.key}
                colSpan={4}
                className={`border-l border-line text-center! ${i === plan ? 'bg-focus-ground! text-ink!' : ''}`}
              >
                {two ? (
                  <label className="inline-flex cursor-pointer items-center gap-1.5 font-semibold" title={say(p.words)}>
                    <input type="radio" name="plan" className="radio radio-xs" checked={i === plan} onChange={() => setPlan(i)} />
                    {p.policy}
                  </label>
                ) : (
                  <span className="font-semibold" title={say(p.words)}>
                    {p.policy}
                  </span>
                )}
              </th>
            ))}
          </tr>
          <tr>
            {v.plans.map((p) => [
              <th
                key={`${p.key}o`}
                className="num border-l border-line"
                title={t`Orders whose open units are all allocated, of those with open units`}
              >
                {t`Complete orders`}
              </th>,
              <th key={`${p.key}u`} className="num">
                {t`Units`}
              </th>,
              <th key={`${p.key}v`} className="num">
                {t`Value`}
              </th>,
              <th
                key={`${p.key}l`}
                className="num"
                title={t`Lines that leave after their ship-by day, or for which no supply is due; days late together`}
              >
                {t`Late lines · days`}
              </th>,
            ])}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.name} className={r.all ? 'font-semibold' : ''}>
              <td>{r.name}</td>
              {v.plans.map((p, i) => {
                const e = r.of(p);
                const other = two ? r.of(v.plans[1 - i]!) : undefined;
                const best = (mine: number | undefined, theirs: number | undefined, more: boolean) =>
                  other && mine !== undefined && theirs !== undefined && mine !== theirs && mine > theirs === more
                    ? 'text-focus font-semibold'
                    : '';
                return [
                  <td key={`${p.key}o`} className={`num border-l border-line ${best(e?.complete, other?.complete, true)}`}>
                    {e && t`${showNum(e.complete)} of ${showNum(e.orders)}`}
                  </td>,
                  <td key={`${p.key}u`} className={`num ${best(e?.units, other?.units, true)}`}>
                    {e && showNum(e.units)}
                  </td>,
                  <td key={`${p.key}v`} className={`num ${best(e?.value_minor, other?.value_minor, true)}`}>
                    {e && showMoney(e.value_minor, v.currency)}
                  </td>,
                  <td key={`${p.key}l`} className={`num ${best(e?.late_days, other?.late_days, false)}`}>
                    {e && `${showNum(e.late_lines)} · ${showNum(e.late_days)}`}
                  </td>,
                ];
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1.5 text-mute">
        <Trans>
          Without a run {plural(v.before.late_lines, 'line')} would be late, by {plural(v.before.late_days, 'day')} together.
        </Trans>
        {two && t` The better number of each pair is in blue; the plans differ on ${plural(v.differ, 'line')}.`}
        {v.others > 0 &&
          t` ${plural(v.others, 'line')} sold in other currencies than ${v.currency} ${v.others === 1 ? 'counts' : 'count'} for nothing ` +
            t`where values are compared or added up.`}
      </p>
      {v.plans.map((p) => (
        <Notes key={p.key} p={p} />
      ))}
    </section>
  );
}

function Notes({ p }: { p: Schemas['RunPlan'] }) {
  const open = p.goal.filter((g) => g.reached < g.bound);
  return (
    <>
      {p.goal.length > 0 && (
        <p className="mt-1 text-mute">
          {p.policy}:{' '}
          {open.length === 0
            ? t`proved in every tier: no other choice reaches more.`
            : open.map((g) => t`tier ${g.tier} ${showNum(g.reached)}, at most ${showNum(g.bound)}`).join('; ') +
              t`; proved elsewhere.`}
        </p>
      )}
      {p.broken.length > 0 && (
        <details className="mt-1">
          <summary className="late cursor-pointer">
            <Trans>
              {p.policy} breaks {plural(p.broken.length, 'promise')}
            </Trans>
          </summary>
          <ul className="mt-1 columns-3">
            {p.broken.map((b) => (
              <li key={`${b.line} ${b.day}`}>
                <Trans>
                  <OrderLink number={b.order} /> {showNum(b.qty)} for {showDay(b.day)}
                </Trans>
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
