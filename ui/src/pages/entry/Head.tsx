import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { DayField } from '../../parts/DayField';
import { useState } from 'react';
import { Finder, findKind } from '../../parts/Finder';
import { shipRules } from '../../parts/asides';
import { showDay } from '../../base/format';
import { say } from '../../base/say';
import { useSought } from '../../parts/useSought';
import { unfound, type Draft, type Sought, type View } from './draft';

/** For whom it is, where it goes and how: a sentence whose words are fields, filled with the customer's defaults. */
export function Head({
  head,
  set,
  view,
  fixed,
  quote,
  start,
  sought,
  setSought,
  chose,
}: {
  head: Draft;
  set: (patch: Partial<Draft>) => void;
  view?: View;
  fixed: boolean; // the customer stays: it is an order or a quote already
  quote: boolean; // a quote says nothing of when it may leave
  start: boolean;
  sought: Sought; // the customer, where the typing went on before it was found
  setSought: (s: Sought) => void;
  chose: () => void;
}) {
  const c = view?.customer;
  const [own, setOwn] = useState(head.address !== undefined);
  const choose = (customer: string) => {
    set({
      customer: customer || undefined,
      ship_to: undefined,
      address: undefined,
      service: undefined,
      terms: undefined,
      warehouse: undefined,
      ship_rule: undefined,
    });
    setOwn(false);
    setSought({});
  };
  const silent = useSought(sought.unfound ? undefined : sought.sought, 'customer', findKind('customer'), (hit) => {
    if (hit) choose(hit.number);
    else setSought({ ...sought, unfound: unfound('customer', sought.sought ?? '') });
  });
  const services = view?.services ?? [];
  return (
    <form aria-label={t`The order`} className="space-y-2 pb-2" onSubmit={(e) => e.preventDefault()}>
      <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-2 font-head text-lead">
        <span>{t`For`}</span>
        {fixed ? (
          <b>{c?.name}</b>
        ) : (
          <Finder
            kind="customer"
            label={t`Customer`}
            placeholder={t`part of a number or name`}
            width={212}
            start={start}
            chosen={sought.sought ?? c?.name ?? head.customer ?? ''}
            choose={(customer) => {
              choose(customer);
              if (customer) chose();
            }}
            seek={(q) => {
              choose('');
              setSought({ sought: q });
              chose();
            }}
          />
        )}
        <span>{t`to`}</span>
        <select
          className="word"
          style={{ width: 152 }}
          aria-label={t`Ship-to`}
          value={own ? '~own' : (view?.ship_to ?? '')}
          onChange={(e) => {
            const other = e.target.value === '~own';
            setOwn(other);
            set(
              other
                ? { ship_to: undefined, address: { name: c?.name ?? '', street: '', city: '', postcode: '', country: 'GB' } }
                : { ship_to: e.target.value, address: undefined },
            );
          }}
        >
          {!own && !view?.ship_to && <option value="">{view?.address.city ?? ''}</option>}
          {c?.ship_tos.map((s) => (
            <option key={s.code} value={s.code}>
              {s.code} · {s.city}
            </option>
          ))}
          <option value="~own">{t`An address for this order only…`}</option>
        </select>
        <span>{t`by`}</span>
        <select
          className="word"
          style={{ width: 124 }}
          aria-label={t`Service`}
          value={view?.service ?? ''}
          onChange={(e) => set({ service: e.target.value })}
        >
          {services.map((s) => (
            <option key={s.code} value={s.code}>
              {s.name}, {s.transit_days === 0 ? t`same day` : s.transit_days === 1 ? t`1 day` : t`${s.transit_days} days`}
            </option>
          ))}
        </select>
        <span>{t`requested by`}</span>
        <DayField
          className="word"
          label={t`Requested date`}
          value={head.wanted ?? view?.wanted ?? ''}
          set={(wanted) => set({ wanted: wanted || undefined })}
        />
        <span>{t`from`}</span>
        <select
          className="word"
          aria-label={t`Warehouse`}
          value={view?.warehouse ?? ''}
          onChange={(e) => set({ warehouse: e.target.value })}
        >
          {!view?.warehouse && <option value="">{t`where it lies`}</option>}
          {view?.warehouses.map((w) => (
            <option key={w}>{w}</option>
          ))}
        </select>
      </div>
      {own && head.address && <OwnAddress head={head} set={set} />}
      <div className="flex flex-wrap items-center gap-x-2 gap-y-2 text-mute">
        <select
          className="select select-sm"
          aria-label={t`Ship rule`}
          value={view?.ship_rule ?? 'any'}
          onChange={(e) => set({ ship_rule: e.target.value as 'any' })}
        >
          {Object.entries(shipRules).map(([rule, words]) => (
            <option key={rule} value={rule}>
              {words}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5">
          {t`urgency`}
          <select
            className="select select-sm"
            aria-label={t`Urgency`}
            value={String(view?.urgency ?? 3)}
            onChange={(e) => set({ urgency: Number(e.target.value) })}
          >
            {[1, 2, 3, 4, 5].map((n) => (
              <option key={n} value={n}>
                {n}
              </option>
            ))}
          </select>
        </label>
        {!quote && (
          <label className="flex items-center gap-1.5">
            {t`leaves not before`}
            <DayField
              label={t`Leaves not before`}
              width={112}
              value={head.not_before ?? ''}
              set={(day) => set({ not_before: day || undefined })}
            />
          </label>
        )}
        <input
          className="input input-sm w-[184px]"
          aria-label={t`Customer’s order number`}
          placeholder={t`Customer’s order number`}
          maxLength={60}
          value={head.customer_ref ?? ''}
          onChange={(e) => set({ customer_ref: e.target.value || undefined })}
        />
        <input
          className="input input-sm min-w-[200px] flex-1"
          aria-label={t`Note`}
          placeholder={t`Note for whoever packs it`}
          maxLength={1000}
          value={head.note ?? ''}
          onChange={(e) => set({ note: e.target.value || undefined })}
        />
        {c && (
          <span className="whitespace-nowrap">
            <Trans>tier {c.tier}</Trans>
            {c.discount_bp > 0 && t` · ${c.discount_bp / 100} % discount`}
            {view.terms && ` · ${view.terms}`}
            {view.zone && ` · ${view.zone}`}
          </span>
        )}
      </div>
      {c?.hold && <p className="late">{say(c.hold)}</p>}
      {(silent ?? sought.unfound) && <p className="late">{silent?.message ?? sought.unfound}</p>}
      {view && head.wanted && view.in_time === 0 && view.late > 0 && view.last && (
        <p className="late">
          <Trans>Nothing of it is there by {showDay(view.wanted)}.</Trans>
        </p>
      )}
    </form>
  );
}

function OwnAddress({ head, set }: { head: Draft; set: (patch: Partial<Draft>) => void }) {
  const a = head.address;
  if (!a) return null;
  const fields = [
    ['name', t`Name`, 170],
    ['street', t`Street`, 200],
    ['city', t`City`, 130],
    ['postcode', t`Postcode`, 90],
    ['country', t`Country`, 60],
  ] as const;
  return (
    <fieldset className="flex flex-wrap gap-2" aria-label={t`Address for this order only`}>
      {fields.map(([name, text, width]) => (
        <input
          key={name}
          className="input input-sm"
          style={{ width }}
          aria-label={text}
          placeholder={text}
          maxLength={name === 'country' ? 2 : 200}
          value={a[name]}
          onChange={(e) => set({ address: { ...a, [name]: name === 'country' ? e.target.value.toUpperCase() : e.target.value } })}
        />
      ))}
    </fieldset>
  );
}
