import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useState } from 'react';
import { type Schemas } from '../../api/call';
import { Dialog } from '../../parts/Dialog';
import { plural } from '../../base/format';
import { useCommand } from '../../parts/useCommand';

/** Returns all that is allocated to free stock, everywhere or at one warehouse. */
export function GiveBackAll({ rows, close }: { rows: Schemas['AllocatedAt'][]; close: () => void }) {
  const [house, setHouse] = useState('');
  const back = useCommand('/api/give-back-all', close);
  const of = rows.find((r) => r.warehouse === house);
  const units = of?.units ?? 0;
  return (
    <Dialog title={t`Give back everything that is allocated?`} close={close}>
      <p>
        <Trans>
          Such as before a stock count is loaded, or at the turn of a season. What is on a pick list or further on stays. It can
          be undone as long as nothing else has happened to the lines.
        </Trans>
      </p>
      <label className="mt-3 block">
        <span className="text-mute">{t`From`}</span>
        <select className="select select-sm ml-2" value={house} onChange={(e) => setHouse(e.target.value)}>
          {rows.map((r) => (
            <option key={r.warehouse} value={r.warehouse}>
              {r.warehouse || t`all warehouses`}
            </option>
          ))}
        </select>
      </label>
      <div className="mt-4 flex justify-end gap-2">
        <button className="btn btn-sm" onClick={close}>
          {t`Cancel`}
        </button>
        <button
          className="btn btn-sm btn-primary"
          disabled={back.busy || units === 0}
          onClick={() => back.run({ ask: { warehouse: house || undefined, units } })}
        >
          <Trans>
            Give back {plural(units, 'unit')} of {plural(of?.lines ?? 0, 'line')}
          </Trans>
        </button>
      </div>
    </Dialog>
  );
}
