import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { ask, client, type AskOf, type Schemas } from '../api/call';
import { plural, showNum } from '../base/format';
import { say } from '../base/say';
import { Dialog } from './Dialog';
import { Quantity } from './Quantity';
import { useCommand } from './useCommand';

export type Ends = AskOf<'/api/recall-units'>['ends'];

/** What recalled units may end as, and why one recalls them so. */
const ways: { ends: Ends; text: string; reasons: string[] }[] = [
  {
    ends: 'dropped',
    text: t`The customer cancels: they are dropped`,
    reasons: [t`cancelled by customer`, t`ordered twice`, t`replaced by another item`],
  },
  {
    ends: 'open',
    text: t`Others need the stock: they are open again`,
    reasons: [t`needed for another order`, t`the customer wants it later`],
  },
  {
    ends: 'allocated',
    text: t`It has to wait: they stay allocated for it`,
    reasons: [t`on hold`, t`the address changes`, t`the customer wants it later`],
  },
];

const stationTexts: Record<Schemas['RecallPart']['station'], string> = {
  open: t`open`,
  allocated: t`allocated`,
  released: t`released`,
  picked: t`picked`,
  packed: t`packed`,
};

/**
 * Stops units of an order before they leave: shows for each line where its units are, lets fewer be chosen, says what it brings with it,
 * and does it in one step.
 */
export function RecallDialog({
  order,
  first,
  close,
  done = close,
}: {
  order: string;
  first: Ends;
  close: () => void;
  /** Something was recalled; if that is more than a reason to close. */
  done?: () => void;
}) {
  const [ends, setEnds] = useState<Ends>(first);
  const way = ways.find((w) => w.ends === ends);
  const [typed, setTyped] = useState<string>();
  const reason = typed ?? way?.reasons[0] ?? '';
  const [units, setUnits] = useState<Record<number, number | undefined>>({});
  const recall = useCommand('/api/recall-units', done);
  const picked = Object.values(units).some((n) => n !== undefined);
  const view = useQuery({
    queryKey: ['recall try', order, ends],
    queryFn: ({ signal }) => ask(client.POST('/api/rehearse-recall', { body: { order, ends }, signal })),
    placeholderData: keepPreviousData,
  });
  // Of a line of which nothing was typed, all that can be.
  const lines = (view.data?.lines ?? [])
    .map((l) => ({ line: l.id, qty: Math.min(units[l.id] ?? l.can, l.can) }))
    .filter((l) => l.qty > 0);
  const body: AskOf<'/api/recall-units'> = picked ? { order, ends, lines } : { order, ends };
  const nothing = picked && lines.length === 0;
  const effect = useQuery({
    queryKey: ['recall try', body],
    queryFn: ({ signal }) => ask(client.POST('/api/rehearse-recall', { body, signal })),
    placeholderData: keepPreviousData,
    enabled: !nothing,
  });
  const does = nothing ? undefined : effect.data;
  const ready = does !== undefined && does.units > 0 && !effect.isPlaceholderData && !effect.error;
  const error = view.error ?? effect.error;
  const count = does ? plural(does.units, 'unit') : '';
  const verbs: Record<Ends, string> = {
    dropped: t`Recall and drop ${count}`,
    open: t`Recall ${count}`,
    allocated: t`Recall ${count}`,
  };
  return (
    <Dialog title={t`Recall ${order}`} close={close} wide="more">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (ready && reason.trim() && !recall.busy) recall.run({ ask: body, reason: reason.trim() });
        }}
      >
        <fieldset className="mb-3">
          <legend className="sr-only">{t`What becomes of the units`}</legend>
          {ways.map((w) => (
            <label key={w.ends} className="flex items-center gap-2 py-0.5">
              <input
                type="radio"
                name="ends"
                className="radio radio-xs"
                checked={ends === w.ends}
                onChange={() => setEnds(w.ends)}
              />
              {w.text}
            </label>
          ))}
        </fieldset>
        <div className="max-h-[300px] overflow-y-auto">
          <table className="grid-table">
            <thead>
              <tr>
                <th className="num">{t`Line`}</th>
                <th>{t`Item`}</th>
                <th>{t`Station and place`}</th>
                <th className="num">{t`Recall`}</th>
              </tr>
            </thead>
            <tbody>
              {view.data?.lines.map((l) => (
                <tr key={l.id} className="align-top">
                  <td className="num pt-1.5">{l.no}</td>
                  <td className="pt-1.5">
                    <b>{l.sku}</b>
                    <span className="block max-w-[210px] truncate text-mute">{l.item}</span>
                  </td>
                  <td className="py-1.5 whitespace-normal">
                    {l.parts.length === 0 && <span className="text-mute">{t`nothing is left in the house`}</span>}
                    {l.parts.map((p, i) => (
                      <span key={i} className={`block ${p.late ? 'late' : ''}`}>
                        <b>{showNum(p.qty)}</b> {stationTexts[p.station]} <span className="text-mute">{say(p.where)}</span>
                      </span>
                    ))}
                  </td>
                  <td className="num pt-1">
                    {l.can > 0 ? (
                      <Quantity
                        label={t`Units of line ${l.no} to recall`}
                        value={Math.min(units[l.id] ?? l.can, l.can)}
                        most={l.can}
                        set={(n) => setUnits((was) => ({ ...was, [l.id]: n }))}
                      />
                    ) : (
                      <span className="text-mute">{showNum(0)}</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <div role="status" className="mt-3 min-h-[44px] rounded-box border border-line p-3">
          {error ? (
            <span className="late">{error.message}</span>
          ) : does && does.units > 0 ? (
            <ul className="list-disc pl-4">
              {does.does.length === 0 && <li>{t`Nobody has begun with them.`}</li>}
              {does.does.map((m, i) => (
                <li key={i}>{say(m)}</li>
              ))}
            </ul>
          ) : (
            <span className="text-mute">{t`Nothing of it can be recalled so.`}</span>
          )}
          {does && does.gone > 0 && (
            <p className="mt-1 text-mute">
              <Trans>{plural(does.gone, 'unit')} of the order left before: a recall does not reach them.</Trans>
            </p>
          )}
        </div>
        <label className="mt-3 block">
          <span className="text-mute">{t`Why? It stands in the trail, and with every paper that becomes void.`}</span>
          <input
            className="input input-sm mt-1 w-full"
            list="recall-reasons"
            required
            maxLength={500}
            value={reason}
            onChange={(e) => setTyped(e.target.value)}
          />
        </label>
        <datalist id="recall-reasons">
          {way?.reasons.map((r) => (
            <option key={r} value={r} />
          ))}
        </datalist>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Close`}
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={!ready || !reason.trim() || recall.busy}>
            {ready ? verbs[ends] : t`Recall`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
