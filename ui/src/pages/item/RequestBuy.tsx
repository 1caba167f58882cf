import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { DayField } from '../../parts/DayField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { Key } from '../../parts/bits';
import { Dialog } from '../../parts/Dialog';
import { showNum } from '../../base/format';
import { Whole } from '../../parts/Whole';
import { useCommand } from '../../parts/useCommand';

/** Asks for more to be bought; the quantity and the day that cover what is lacking are proposed. */
export function RequestBuy({ sku, houses, close }: { sku: string; houses: string[]; close: () => void }) {
  const request = useCommand('/api/request-buy', close);
  const [house, setHouse] = useState(houses[0] ?? '');
  const [qty, setQty] = useState<number>();
  const [wanted, setWanted] = useState<string>();
  const [note, setNote] = useState('');
  const proposal = useQuery({
    ...questions.proposal(sku, house),
    enabled: house !== '',
  });
  const p = proposal.data;
  const units = qty ?? (p && p.qty > 0 ? p.qty : undefined);
  const day = wanted ?? p?.wanted ?? '';
  return (
    <Dialog title={t`Request to buy ${sku}`} close={close}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          request.run({ ask: { sku, warehouse: house, qty: units ?? 0, wanted: day, note: note || undefined } });
        }}
      >
        <label className="flex items-center justify-between gap-3">
          {t`Units`}
          <Whole className="input input-sm w-[120px] text-right" label={t`Units`} value={units} set={(n) => setQty(n ?? 0)} />
        </label>
        <label className="flex items-center justify-between gap-3">
          {t`For`}
          <select
            className="select select-sm w-[120px]"
            value={house}
            onChange={(e) => {
              setHouse(e.target.value);
              setQty(undefined);
              setWanted(undefined);
            }}
          >
            {houses.map((h) => (
              <option key={h}>{h}</option>
            ))}
          </select>
        </label>
        <div className="flex items-center justify-between gap-3">
          {t`Requested by`}
          <DayField label={t`Requested by`} value={day} set={setWanted} />
        </div>
        <label className="flex items-center justify-between gap-3">
          {t`Note`}
          <input className="input input-sm w-[260px]" maxLength={500} value={note} onChange={(e) => setNote(e.target.value)} />
        </label>
        {p && (
          <p className="text-mute">
            <Trans>
              {showNum(p.open)} open, {showNum(p.free)} free, {showNum(p.coming)} on the way
            </Trans>
            {p.asked > 0 && t`, ${showNum(p.asked)} requested already`}
            <Trans>
              : {p.qty > 0 ? t`${showNum(p.qty)} are lacking` : t`nothing is lacking`}. Buying takes {p.lead_days} working days.
            </Trans>
          </p>
        )}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button className="btn btn-sm btn-primary" disabled={!units || !day || request.busy}>
            {t`Request it`} <Key>{t`Enter`}</Key>
          </button>
        </div>
      </form>
    </Dialog>
  );
}
