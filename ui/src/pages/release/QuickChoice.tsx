import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showKg, showNum, showSpan, showWalk } from '../../base/format';
import { Dialog } from '../../parts/Dialog';
import { Whole } from '../../parts/Whole';
import type { Releasing, Wave } from './useReleasing';

type Rule = Schemas['QuickAsk']['rule'];

/** Why lines that could go were not chosen. */
const left: Record<Schemas['QuickLeft']['why'], string> = {
  not_complete: t`part of the order could not go`,
  later: t`ship later than today`,
  limit: t`more than that`,
  with_order: t`the whole order would be more than that`,
};

/** Chooses lines that could go by a rule, and says beforehand what it would choose and what it would leave out. */
export function QuickChoice({
  due,
  wave,
  releasing,
  close,
}: {
  due: { q?: string; until?: string; warehouse?: string };
  wave: Wave;
  releasing: Releasing;
  close: () => void;
}) {
  const [rule, setRule] = useState<Rule>('complete');
  const [lines, setLines] = useState<number | undefined>(40);
  const [kilos, setKilos] = useState<number | undefined>(500);
  const [pickers, setPickers] = useState<number | undefined>(1);
  const [until, setUntil] = useState('16:00');
  const most = rule === 'lines' ? (lines ?? 0) : rule === 'weight' ? (kilos ?? 0) * 1000 : 0;
  const body = {
    ...due,
    rule,
    most,
    wave,
    ...(rule === 'time' ? { cut_off: until, pickers: pickers ?? 1 } : {}),
  };
  const choice = useQuery({
    queryKey: ['quick choice', body],
    queryFn: ({ signal }) => ask(client.POST('/api/choose-quickly', { body, signal })),
    placeholderData: keepPreviousData,
  });
  const c = choice.data;
  const way = (value: Rule, text: ReactNode) => (
    <label className="flex items-center gap-2 py-1">
      <input type="radio" name="rule" className="radio radio-xs" checked={rule === value} onChange={() => setRule(value)} />
      <span className="flex flex-wrap items-center gap-1.5">{text}</span>
    </label>
  );
  return (
    <Dialog title={t`Choose lines in one step`} close={close} wide>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!c || choice.isPlaceholderData) return;
          releasing.take(c.lines);
          close();
        }}
      >
        <fieldset>
          <legend className="sr-only">{t`What is chosen`}</legend>
          {way('complete', t`The orders that are completed`)}
          {way('due', t`All that ships today, or should have`)}
          {way(
            'lines',
            <>
              {t`The most urgent, up to`}
              <Whole className="qty" label={t`Lines`} most={5000} value={lines} set={setLines} />
              {t`lines`}
            </>,
          )}
          {way(
            'weight',
            <>
              {t`The most urgent, up to`}
              <Whole className="qty !w-[72px]" label={t`Kilograms`} most={1_000_000} value={kilos} set={setKilos} />
              {t`kg`}
            </>,
          )}
          {way(
            'time',
            <>
              {t`The most urgent that`}
              <Whole className="qty" label={t`Pickers`} most={100} value={pickers} set={setPickers} />
              {pickers === 1 ? t`person can pick until` : t`people can pick until`}
              <input
                className="input input-sm w-[112px]"
                type="time"
                aria-label={t`Until what time`}
                value={until}
                onChange={(e) => setUntil(e.target.value)}
              />
            </>,
          )}
        </fieldset>
        <div role="status" className="mt-3 min-h-[64px] rounded-box border border-line p-3">
          {choice.error ? (
            <span className="late">{choice.error.message}</span>
          ) : (
            c && (
              <>
                <p>
                  {c.lines.length === 0 ? (
                    <b>{t`That chooses nothing.`}</b>
                  ) : (
                    <Trans>
                      That chooses <b>{plural(c.lines.length, 'line')}</b> of {plural(c.comes.orders, 'order')}:{' '}
                      {plural(c.comes.units, 'unit')}, {showKg(c.comes.weight_g)}, {showSpan(c.comes.seconds)} of picking over{' '}
                      {showWalk(c.comes.walk_cm)}.
                    </Trans>
                  )}
                </p>
                {c.left.map((l) => (
                  <p key={l.why} className="text-mute">
                    <Trans>
                      Left out: {plural(l.lines, 'line')} ({plural(l.units, 'unit')}), {left[l.why]}.
                    </Trans>
                  </p>
                ))}
                {c.more && (
                  <p className="late">{t`There is more than the ${showNum(5000)} most urgent lines that were looked at.`}</p>
                )}
              </>
            )
          )}
        </div>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button
            type="submit"
            className="btn btn-sm btn-primary"
            disabled={!c || c.lines.length === 0 || choice.isPlaceholderData}
          >
            {c && c.lines.length > 0 ? <Trans>Choose {plural(c.lines.length, 'line')}</Trans> : t`Choose`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
