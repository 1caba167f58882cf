import { t } from '@lingui/core/macro';
import { DayField } from '../../parts/DayField';
import type { Schemas } from '../../api/call';
import { Finder } from '../../parts/Finder';
import { useList } from '../../parts/list';
import { Whole } from '../../parts/Whole';

/** The question is a sentence whose words are fields. */
export function Sentence({ a }: { a?: Schemas['PromiseAnswer'] }) {
  const [search, set] = useList();
  const services = a?.services ?? [];
  return (
    <form
      aria-label={t`The question`}
      className="flex flex-wrap items-baseline gap-x-1.5 gap-y-2 pb-3 font-head text-head"
      onSubmit={(e) => e.preventDefault()}
    >
      <Whole
        className="word"
        label={t`Quantity`}
        style={{ width: search.qty ? 62 : 88 }}
        placeholder={t`How many`}
        value={search.qty ? Number(search.qty) : undefined}
        set={(n, why) => why === undefined && set({ qty: n ? String(n) : undefined })}
      />
      <span>{a?.unit && a.unit !== 'each' ? t`${a.unit}s of` : t`of`}</span>
      <Finder
        kind="item"
        label={t`Item`}
        placeholder={t`part of an item’s number or name`}
        width={258}
        start={!search.sku}
        chosen={a && search.sku ? `${a.sku} · ${a.item}` : (search.sku ?? '')}
        choose={(sku) => set({ sku: sku || undefined, warehouse: undefined, line: undefined })}
      />
      <span>{t`for`}</span>
      <Finder
        kind="customer"
        label={t`Customer`}
        placeholder={t`anybody`}
        width={124}
        chosen={a?.name ?? search.customer ?? ''}
        choose={(customer) => set({ customer: customer || undefined, service: undefined, warehouse: undefined, line: undefined })}
      />
      <span>{t`to arrive by`}</span>
      <DayField
        className="word"
        label={t`Requested date`}
        value={search.wished ?? a?.wished ?? ''}
        set={(wished) => set({ wished: wished || undefined })}
      />
      {services.length > 0 && (
        <>
          <span>{t`by`}</span>
          <select
            className="word"
            style={{ width: 128 }}
            aria-label={t`Service`}
            value={a?.service}
            onChange={(e) => set({ service: e.target.value })}
          >
            {services.map((s) => (
              <option key={s.code} value={s.code}>
                {s.name}, {s.transit_days === 0 ? t`same day` : s.transit_days === 1 ? t`1 day` : t`${s.transit_days} days`}
              </option>
            ))}
          </select>
        </>
      )}
    </form>
  );
}
