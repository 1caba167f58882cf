import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { useKey } from '../../base/keys/useKey';
import { Key, OrderLink } from '../../parts/bits';
import { plural, showNum } from '../../base/format';
import { say } from '../../base/say';

type Ask = Schemas['WhatIfAsk'];
type Claim = Schemas['Claim'];

/** One thing that might be otherwise, and what a run over the whole book would then do. It changes nothing. */
export function WhatIf({ sku, warehouse, claim }: { sku: string; warehouse: string; claim: Claim | undefined }) {
  const [open, setOpen] = useState(false);
  const [asked, setAsked] = useState<Ask>();
  const [more, setMore] = useState('10');
  const [sooner, setSooner] = useState('1');
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.select(), [open]);
  useKey('w', t`Ask what would be otherwise`, () => setOpen(true));
  const answer = useQuery({
    queryKey: ['what if', asked],
    queryFn: ({ signal }) => ask(client.POST('/api/what-if', { body: asked!, signal })),
    enabled: !!asked,
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  if (!open)
    return (
      <button className="btn btn-sm mb-3 w-full justify-center" onClick={() => setOpen(true)}>
        {t`What if …?`} <Key>W</Key>
      </button>
    );
  const number = (text: string) => (/^-?\d{1,9}$/.test(text.trim()) ? Number(text) : 0);
  return (
    <section className="border-t border-line py-3" aria-label={t`What if`}>
      <h2 className="text-lead">{t`What if`}</h2>
      <Line
        submit={() => setAsked({ sku, warehouse, more: number(more) })}
        can={number(more) !== 0}
        before={
          <input
            ref={first}
            className="input input-sm w-16 text-right"
            aria-label={t`Units more on hand`}
            value={more}
            onChange={(e) => setMore(e.target.value)}
          />
        }
        text={t`more were on hand`}
      />
      {claim && (
        <>
          <p className="mt-2 text-mute">
            <Trans>
              {claim.order} line {claim.no}
            </Trans>
          </p>
          <Line
            submit={() => setAsked({ line: claim.line, sooner: number(sooner) })}
            can={number(sooner) !== 0}
            before={
              <input
                className="input input-sm w-16 text-right"
                aria-label={t`Days sooner`}
                value={sooner}
                onChange={(e) => setSooner(e.target.value)}
              />
            }
            text={t`days sooner`}
          />
          <div className="mt-1 flex items-center gap-2">
            <span className="w-16 text-right">{t`tier`}</span>
            {[1, 2, 3, 4, 5].map((tier) => (
              <button
                key={tier}
                className="btn btn-sm px-2"
                disabled={tier === claim.tier}
                aria-label={t`In tier ${tier}`}
                onClick={() => setAsked({ line: claim.line, tier })}
              >
                {tier}
              </button>
            ))}
          </div>
        </>
      )}
      <div aria-live="polite" className={answer.isFetching ? 'opacity-50' : undefined}>
        {answer.error && <p className="late mt-2">{answer.error.message}</p>}
        {!answer.error && answer.data && <Answer v={answer.data} />}
      </div>
    </section>
  );
}

function Line({ submit, can, before, text }: { submit: () => void; can: boolean; before: React.ReactNode; text: string }) {
  return (
    <form
      className="mt-1 flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (can) submit();
      }}
    >
      {before}
      <span className="flex-1">{text}</span>
      <button className="btn btn-sm" disabled={!can}>
        {t`Ask`}
      </button>
    </form>
  );
}

function Answer({ v }: { v: Schemas['WhatIfView'] }) {
  return (
    <>
      <p className="mt-3 font-semibold">{say(v.what)}</p>
      <ul className="mt-1 space-y-1">
        {v.says.map((s) => (
          <li key={s.text}>{say(s)}</li>
        ))}
      </ul>
      {v.lines.length > 0 && (
        <table className="mt-2 w-full text-small" aria-label={t`Lines that would be allocated otherwise`}>
          <thead className="text-mute">
            <tr>
              <th className="text-left font-normal">{t`Line`}</th>
              <th className="text-right font-normal">{t`Now`}</th>
              <th className="text-right font-normal">{t`With it`}</th>
            </tr>
          </thead>
          <tbody>
            {v.lines.map((l) => (
              <tr key={l.line} title={t`${l.customer}: ${l.sku}, ${showNum(l.wanted)} open`}>
                <td className="max-w-[180px] truncate py-0.5">
                  <OrderLink number={l.order} /> <span className="text-mute">{l.customer}</span>
                </td>
                <td className="text-right">{showNum(l.before)}</td>
                <td className="text-right font-semibold">{showNum(l.after)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {v.more > 0 && (
        <p className="mt-1 text-mute">
          <Trans>and {plural(v.more, 'line')} more</Trans>
        </p>
      )}
      <p className="mt-2 text-mute">
        <Trans>By the policy {v.policy}, over all open lines. Nothing is changed.</Trans>
      </p>
    </>
  );
}
