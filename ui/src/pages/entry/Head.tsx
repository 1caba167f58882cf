import { DayField } from '../../parts/DayField';
import { useState } from 'react';
import { Finder, findKind } from '../../parts/Finder';
import { shipRules } from '../../parts/asides';
import { showDay } from '../../base/format';
import { useSought } from '../../parts/useSought';
import { unfound, type Draft, type Sought, type View } from './draft';

/** For whom it is, where it goes and how: a sentence whose words are fields, filled with the customer's defaults. */
export function Head({
  head,
  set,
  view,
  fixed,
  start,
  sought,
  setSought,
  chose,
}: {
  head: Draft;
  set: (patch: Partial<Draft>) => void;
  view?: View;
  fixed: boolean; // the customer stays: it is an order or a quote already
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
    <form aria-label="The order" className="space-y-2 pb-2" onSubmit={(e) => e.preventDefault()}>
      <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-2 font-head text-lead">
        <span>For</span>
        {fixed ? (
          <b>{c?.name}</b>
        ) : (
          <Finder
            kind="customer"
            label="Customer"
            placeholder="part of a number or name"
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
        <span>to</span>
        <select
          className="word"
          style={{ width: 152 }}
          aria-label="Ship-to"
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
          <option value="~own">An address for this order only…</option>
        </select>
        <span>by</span>
        <select
          className="word"
          style={{ width: 124 }}
          aria-label="Service"
          value={view?.service ?? ''}
          onChange={(e) => set({ service: e.target.value })}
        >
          {services.map((s) => (
            <option key={s.code} value={s.code}>
              {s.name}, {s.transit_days === 0 ? 'same day' : s.transit_days === 1 ? '1 day' : `${s.transit_days} days`}
            </option>
          ))}
        </select>
        <span>requested by</span>
        <DayField
          className="word"
          label="Requested date"
          value={head.wanted ?? view?.wanted ?? ''}
          set={(wanted) => set({ wanted: wanted || undefined })}
        />
        <span>from</span>
        <select
          className="word"
          aria-label="Warehouse"
          value={view?.warehouse ?? ''}
          onChange={(e) => set({ warehouse: e.target.value })}
        >
          {!view?.warehouse && <option value="">where it lies</option>}
          {view?.warehouses.map((w) => (
            <option key={w}>{w}</option>
          ))}
        </select>
      </div>
      {own && head.address && <OwnAddress head={head} set={set} />}
      <div className="flex flex-wrap items-center gap-x-2 gap-y-2 text-mute">
        <select
          className="select select-sm"
          aria-label="Ship rule"
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
          urgency
          <select
            className="select select-sm"
            aria-label="Urgency"
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
        <input
          className="input input-sm w-[184px]"
          aria-label="Customer’s order number"
          placeholder="Customer’s order number"
          maxLength={60}
          value={head.customer_ref ?? ''}
          onChange={(e) => set({ customer_ref: e.target.value || undefined })}
        />
        <input
          className="input input-sm min-w-[200px] flex-1"
          aria-label="Note"
          placeholder="Note for whoever packs it"
          maxLength={1000}
          value={head.note ?? ''}
          onChange={(e) => set({ note: e.target.value || undefined })}
        />
        {c && (
          <span className="whitespace-nowrap">
            tier {c.tier}
            {c.discount_bp > 0 && ` · ${c.discount_bp / 100} % discount`}
            {view.terms && ` · ${view.terms}`}
            {view.zone && ` · ${view.zone}`}
          </span>
        )}
      </div>
      {(silent ?? sought.unfound) && <p className="late">{silent?.message ?? sought.unfound}</p>}
      {view && head.wanted && view.in_time === 0 && view.late > 0 && view.last && (
        <p className="late">Nothing of it is there by {showDay(view.wanted)}.</p>
      )}
    </form>
  );
}

function OwnAddress({ head, set }: { head: Draft; set: (patch: Partial<Draft>) => void }) {
  const a = head.address;
  if (!a) return null;
  const fields = [
    ['name', 'Name', 170],
    ['street', 'Street', 200],
    ['city', 'City', 130],
    ['postcode', 'Postcode', 90],
    ['country', 'Country', 60],
  ] as const;
  return (
    <fieldset className="flex flex-wrap gap-2" aria-label="Address for this order only">
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
