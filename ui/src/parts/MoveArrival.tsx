import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { DayField } from './DayField';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { questions } from '../base/questions';
import { type Schemas } from '../api/call';
import { OrderLink, Tier } from './bits';
import { Dialog } from './Dialog';
import { plural, showDay, showNum, showTime } from '../base/format';
import { useCommand } from './useCommand';

type Inbound = Schemas['InboundView'];
type Effect = Schemas['ArrivalEffect'];

/** Gives a receipt another day; which promises slip by it is shown before it is done. */
export function MoveArrival({ n, close }: { n: Inbound; close: () => void }) {
  const [due, setDue] = useState(n.due);
  const [anew, setAnew] = useState(true);
  const [why, setWhy] = useState('');
  const move = useCommand('/api/move-arrival', close);
  const effect = useQuery({
    ...questions.arrivalMoved(n.id, due),
    enabled: due !== '' && due !== n.due,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const known = due !== n.due && effect.data?.due === due ? effect.data : undefined;
  const run = () =>
    known &&
    move.run({
      ask: { inbound: n.id, due, seen: n.due, anew: anew && known.slips.length > 0, effect: known.slips.length },
      reason: why.trim() || undefined,
    });
  return (
    <Dialog title={t`Expect ${n.ref} on another day`} close={close} wide>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          run();
        }}
      >
        <p>
          <Trans>
            {showNum(n.left)} of <b>{n.sku}</b> {n.item}, to {n.warehouse}.
          </Trans>{' '}
          {n.overdue ? (
            <span className="late">
              <Trans>Was due {showDay(n.due)}; nothing can rest on it until it has a new day.</Trans>
            </span>
          ) : (
            t`Due ${showDay(n.due)}.`
          )}
        </p>
        <div className="mt-3 flex items-end gap-4">
          <div>
            <span className="block text-mute">{t`Expected on`}</span>
            <DayField label={t`Expected on`} value={due} set={setDue} width={146} />
          </div>
          <label className="flex-1">
            <span className="block text-mute">{t`Why (it stays in the trail)`}</span>
            <input className="input input-sm w-full" value={why} maxLength={500} onChange={(e) => setWhy(e.target.value)} />
          </label>
        </div>
        <div className="mt-3 min-h-[72px]" aria-live="polite">
          {effect.error && due !== n.due && <p className="late">{effect.error.message}</p>}
          {known && <Effects e={known} anew={anew} setAnew={setAnew} />}
          {due === n.due && <p className="text-mute">{t`Choose a day to see what it would do to promises.`}</p>}
        </div>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button className="btn btn-sm btn-primary" disabled={!known || move.busy}>
            {known && known.slips.length > 0 && anew
              ? t`Move it and promise ${plural(known.slips.length, 'line')} anew`
              : t`Move it`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function Effects({ e, anew, setAnew }: { e: Effect; anew: boolean; setAnew: (on: boolean) => void }) {
  const days = (ps: Schemas['Promised'][]) => ps.map((p) => t`${showNum(p.qty)} on ${showDay(p.day)}`).join(', ');
  return (
    <>
      {e.slips.length === 0 && <p>{t`Every promise that can be kept now can be kept then.`}</p>}
      {e.slips.length > 0 && (
        <>
          <p className="late">
            <Trans>{plural(e.slips.length, 'line')} could not be kept as promised:</Trans>
          </p>
          <table className="grid-table" aria-label={t`What slips`}>
            <thead>
              <tr>
                <th>{t`Tier`}</th>
                <th>{t`Order`}</th>
                <th>{t`Customer`}</th>
                <th>{t`Promised`}</th>
                <th>{t`Could be`}</th>
              </tr>
            </thead>
            <tbody>
              {e.slips.map((s) => (
                <tr key={s.line}>
                  <td>
                    <Tier n={s.tier} />
                  </td>
                  <td>
                    <OrderLink number={s.order} />
                  </td>
                  <td className="max-w-[150px] truncate" title={s.customer}>
                    {s.customer}
                  </td>
                  <td>{days(s.was)}</td>
                  <td className="font-semibold">
                    {days(s.now)}
                    {s.short > 0 && (
                      <span className="late">
                        {' '}
                        <Trans>{showNum(s.short)} on no day</Trans>
                      </span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <label className="mt-2 flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-xs" checked={anew} onChange={(x) => setAnew(x.target.checked)} />
            {t`Promise them anew, as shown`}
          </label>
        </>
      )}
      {e.saved.length > 0 && (
        <p className="mt-2">
          <Trans>
            <b>{plural(e.saved.length, 'line')}</b> that cannot be kept now could be:{' '}
            {e.saved.map((s) => `${s.order} (${s.customer})`).join(', ')}.
          </Trans>
        </p>
      )}
      {e.history.map((h) => (
        <p key={h.at} className="mt-1 text-mute">
          <Trans>
            {showTime(h.at)} {h.who} moved it from {showDay(h.was)} to {showDay(h.now)}
          </Trans>
          {h.reason && `: ${h.reason}`}
        </p>
      ))}
    </>
  );
}
