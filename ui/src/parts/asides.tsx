import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { memo } from 'react';
import { useQuery } from '@tanstack/react-query';
import { questions } from '../base/questions';
import { type LineView, type Schemas } from '../api/call';
import { Day, Facts, Fault, Holds, ItemLink, OrderLink, Tier } from './bits';
import { showDay, showNum } from '../base/format';
import { JourneyBar } from './JourneyBar';
import { inPlace } from '../base/say';

type Cell = Schemas['CellView'];

/** The bins from which can be picked: not where recalled units wait. */
const inBins = (c: Cell) => c.bins.filter((b) => !b.put_back);

/** What is on hand and cannot be used yet, or at all: recalled units that wait to be put back, and what is held for other causes. */
function waiting(c: Cell): [string, string][] {
  const back = c.bins.filter((b) => b.put_back);
  const units = back.reduce((n, b) => n + b.qty, 0);
  const held = c.held - back.reduce((n, b) => n + b.held, 0);
  return [
    ...(units > 0 ? ([[t`To be put back`, showNum(units)]] as [string, string][]) : []),
    ...(held > 0 ? ([[t`Held, unusable`, showNum(held)]] as [string, string][]) : []),
  ];
}

/** The item's stock where the line looks for it, elsewhere, and what is coming. */
export const ItemAside = memo(function ItemAside({ sku, warehouse }: { sku: string; warehouse?: string }) {
  const item = useQuery({
    ...questions.item(sku),
  });
  if (!item.data) return <p className="text-mute">{item.error ? item.error.message : '…'}</p>;
  const it = item.data;
  const cells = [...it.cells].sort((a, b) => Number(b.warehouse === warehouse) - Number(a.warehouse === warehouse));
  const coming = it.inbound.filter((n) => !warehouse || n.warehouse === warehouse).slice(0, 3);
  return (
    <section className="pb-3">
      <h2 className="text-lead">
        <ItemLink sku={it.sku} /> {it.name}
      </h2>
      {cells.length === 0 && <p className="mt-1 text-mute">{t`No stock has ever been counted or received.`}</p>}
      {cells.map((c, i) => (
        <div key={c.warehouse} className={i ? 'mt-3' : 'mt-1'}>
          <p className="mb-1 text-mute">
            {c.name}
            {inBins(c).length > 0 &&
              ` · ${inBins(c)
                .map((b) => (b.bin ? t`bin ${b.bin}` : t`no bin set`))
                .join(', ')}`}
          </p>
          {i === 0 ? (
            <Facts
              rows={[
                [t`On hand`, showNum(c.on_hand)],
                [t`Free`, showNum(c.free)],
                [t`Allocated`, showNum(c.allocated)],
                [t`On the floor`, showNum(c.floor)],
                ...waiting(c),
              ]}
            />
          ) : (
            <Facts rows={[[t`Free`, showNum(c.free)]]} />
          )}
        </div>
      ))}
      <div className="mt-3">
        {coming.length === 0 && (
          <p className="text-mute">
            <Trans>Nothing is on its way{warehouse ? t` to ${warehouse}` : ''}.</Trans>
          </p>
        )}
        {coming.map((n) => (
          <p key={n.id}>
            <Trans>
              <span className="font-semibold">{n.ref}</span> {showNum(n.left)} due
            </Trans>{' '}
            {n.overdue ? (
              <span className="late">
                <Trans>{showDay(n.due)} · overdue</Trans>
              </span>
            ) : (
              showDay(n.due)
            )}
          </p>
        ))}
      </div>
    </section>
  );
});

/** The other lines of the order to which the row in focus belongs. */
export const OrderAside = memo(function OrderAside({ number, except }: { number: string; except?: number }) {
  const order = useQuery({
    ...questions.order(number),
  });
  if (!order.data) return <p className="text-mute">{order.error ? order.error.message : '…'}</p>;
  const o = order.data;
  const others = o.lines.filter((l) => l.id !== except);
  return (
    <section className="border-t border-line py-3 first:border-0 first:pt-0">
      <h2 className="text-lead">
        <OrderLink number={o.number} /> {o.customer}
      </h2>
      <p className="mt-1 flex items-center gap-2">
        <Tier n={o.tier} /> <span className="text-mute">{t`requested`}</span> <Day iso={o.wanted} late={o.late} />
      </p>
      <p className="text-mute">{shipRules[o.ship_rule] ?? o.ship_rule}</p>
      {o.holds.length > 0 && (
        <p className="mt-1">
          <Holds of={o.holds} />
        </p>
      )}
      {o.hold_notes.map((h) => (
        <p key={h.kind} className="text-mute">
          {h.note} ({h.who})
        </p>
      ))}
      {o.data_fault && (
        <p className="mt-1">
          <Fault>{o.data_fault}</Fault>
        </p>
      )}
      <LineBars
        lines={others}
        title={except === undefined ? undefined : others.length ? t`Other lines of this order` : undefined}
      />
    </section>
  );
});

export const shipRules: Record<string, string> = {
  any: t`partial shipments`,
  lines: t`complete lines`,
  whole: t`complete order`,
};

export function LineBars({ lines, title }: { lines: LineView[]; title?: string }) {
  return (
    <div className="mt-2">
      {title && <p className="text-mute">{title}</p>}
      {lines.map((l) => (
        <div key={l.id} className="flex h-7 items-center justify-between gap-2">
          <span className="truncate" title={l.item}>
            <span className="font-semibold">{l.sku}</span> <span className="text-mute">{l.item}</span>
          </span>
          <JourneyBar at={l.at} width={84} of={l.sku} />
        </div>
      ))}
    </div>
  );
}

export function can(l: { can: Schemas['Can'][] }, verb: string): Schemas['Can'] {
  return l.can.find((c) => c.verb === verb) ?? { verb, qty: 0, why: inPlace(t`not possible`) };
}
