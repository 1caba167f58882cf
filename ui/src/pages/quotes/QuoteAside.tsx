import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { questions } from '../../base/questions';
import { DocumentLink, Tier } from '../../parts/bits';
import { showDay, showMoney, showNum, showTime } from '../../base/format';

/** What is on a quote and what became of it. */
export function QuoteAside({ number }: { number: string }) {
  const quote = useQuery({
    ...questions.quote(number),
  });
  const q = quote.data;
  if (!q) return <p className="text-mute">{quote.error ? quote.error.message : '…'}</p>;
  return (
    <>
      <h2 className="text-lead">
        <DocumentLink kind="quote" number={q.number} /> {q.customer}
      </h2>
      <p className="mt-1 flex items-center gap-2">
        <Tier n={q.tier} /> <span className="text-mute">{t`wanted`}</span> {showDay(q.wanted)}
      </p>
      <p className="text-mute">
        <Trans>
          made by {q.made_by}, {showTime(q.made_at)}
        </Trans>
        {q.approved_by && t`; approved by ${q.approved_by}`}
      </p>
      <div className="mt-3">
        {q.items.map((l) => (
          <p key={l.line} className="flex justify-between gap-2">
            <span className="truncate" title={l.item}>
              <b>{l.sku}</b> <span className="text-mute">{l.item}</span>
            </span>
            <span className="shrink-0">
              {l.accepted > 0 && t`${showNum(l.accepted)} of `}
              {showNum(l.qty)} · {showMoney(l.price_minor, q.currency)}
            </span>
          </p>
        ))}
      </div>
      {q.orders.length > 0 && (
        <section className="mt-3 border-t border-line py-3">
          <h2 className="text-lead">{t`Orders`}</h2>
          {q.orders.map((o) => (
            <p key={o.number} className="flex justify-between">
              <DocumentLink kind="order" number={o.number} /> {showMoney(o.value_minor, o.currency)}
            </p>
          ))}
        </section>
      )}
    </>
  );
}
