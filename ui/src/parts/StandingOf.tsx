import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { questions } from '../base/questions';
import { type Schemas } from '../api/call';
import { Facts } from './bits';
import { showMoney, showNum } from '../base/format';

export function useStanding(code: string) {
  return useQuery({
    ...questions.standing(code),
  });
}

/** What a customer is worth and how well they were served. */
export function StandingOf({ code }: { code: string }) {
  const s = useStanding(code);
  if (!s.data) return null;
  return (
    <section className="border-t border-line py-3">
      <h2 className="mb-1 text-lead">
        <Link to="/customers/$number" params={{ number: code }} className="ref">
          {s.data.name}
        </Link>
      </h2>
      <StandingFacts s={s.data} />
    </section>
  );
}

export function StandingFacts({ s }: { s: Schemas['StandingView'] }) {
  const trend =
    s.trend_bp === undefined || s.trend_bp === null
      ? t`no earlier orders`
      : `${s.trend_bp >= 0 ? 'up' : 'down'} ${showNum(Math.abs(Math.round(s.trend_bp / 100)))} %`;
  return (
    <Facts
      rows={[
        [t`Tier`, String(s.tier)],
        [t`Orders, 12 months`, showMoney(s.value_minor, s.currency)],
        [t`Last 6 months vs previous 6`, trend],
        [t`Rank by value`, t`${showNum(s.rank)} of ${showNum(s.of)}`],
        [t`Lines on time`, t`${showNum(s.in_time)} of ${showNum(s.sent)}`],
        ...(s.late_lines > 0
          ? ([
              [
                t`Late now`,
                <span key="late" className="late">
                  {showNum(s.late_lines)}
                </span>,
              ],
            ] as [string, React.ReactNode][])
          : []),
      ]}
    />
  );
}
