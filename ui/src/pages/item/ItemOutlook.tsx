import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import type { Schemas } from '../../api/call';
import { questions } from '../../base/questions';
import { showDay, showNum } from '../../base/format';
import { AsTable, OutlookChart, OutlookTable } from '../../parts/OutlookChart';

type House = Schemas['HouseOutlook'];

/** What can be promised of the item from each warehouse, one below the other in the order given, day by day, and what a day rests on. */
export function ItemOutlook({ sku, order }: { sku: string; order: readonly string[] }) {
  const [table, setTable] = useState(false);
  const [at, setAt] = useState<{ warehouse: string; day: string }>();
  const outlook = useQuery({
    ...questions.canPromise({ sku }),
    retry: false,
  });
  const place = (h: House) => (order.includes(h.warehouse) ? order.indexOf(h.warehouse) : order.length);
  const houses = [...(outlook.data?.houses ?? [])].sort((a, b) => place(a) - place(b));
  return (
    <section aria-label={t`Outlook`} className="mt-4">
      <div className="flex items-center gap-3">
        <h2 className="text-lead">{t`Outlook`}</h2>
        <Link to="/promise" search={{ sku }} className="ref text-mute">
          {t`How many, by when?`}
        </Link>
        <span className="ml-auto">
          <AsTable table={table} flip={() => setTable(!table)} />
        </span>
      </div>
      {outlook.error && <p className="text-mute">{outlook.error.message}</p>}
      {houses.map((h, i) => {
        const focus = at?.warehouse === h.warehouse ? h.days.find((d) => d.day === at.day) : undefined;
        return (
          <section key={h.warehouse} aria-label={h.name || h.warehouse} className="mt-2">
            <h3 className="text-row">
              {h.name || h.warehouse}
              {h.over && (
                <span className="late ml-3 font-sans font-normal">
                  <Trans>too much is promised from {showDay(h.over)}</Trans>
                </span>
              )}
            </h3>
            {table ? (
              <OutlookTable house={h} />
            ) : (
              <OutlookChart
                house={h}
                qty={0}
                shipBy=""
                focus={focus?.day ?? ''}
                setFocus={(day) => setAt({ warehouse: h.warehouse, day })}
                height={i === 0 ? 150 : 64}
              />
            )}
            {focus && <OfDay d={focus} />}
          </section>
        );
      })}
    </section>
  );
}

/** What the projected number of a day rests on. */
function OfDay({ d }: { d: House['days'][number] }) {
  return (
    <p>
      <Trans>
        <b>{showDay(d.day)}</b>: {showNum(d.left)} projected
      </Trans>
      {d.receipts.map((r) => (
        <span key={r.ref}>
          <Trans>
            , {r.ref} brings {showNum(r.qty)}
          </Trans>
        </span>
      ))}
      {d.commitments.map((c) => (
        <span key={`${c.order}/${c.line}`}>
          <Trans>
            , {showNum(c.qty)} promised to {c.customer} ({c.order})
          </Trans>
        </span>
      ))}
      .
    </p>
  );
}
