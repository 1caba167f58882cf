import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { memo, useState } from 'react';
import { questions } from '../base/questions';
import { type Schemas } from '../api/call';
import { OrderLink, Tier } from './bits';
import { CloseFoot, Dialog } from './Dialog';
import { showDay, showNum, showTime } from '../base/format';
import { say } from '../base/say';

export function useWhy(line: number) {
  return useQuery({
    ...questions.why(line),
  });
}

/** Why a line has what it has, in one sentence; in full when it is asked for. */
export const WhyAside = memo(function WhyAside({ line }: { line: number }) {
  const why = useWhy(line);
  const [full, setFull] = useState(false);
  if (!why.data) return null;
  return (
    <section className="border-t border-line py-3">
      <h2 className="mb-1 text-lead">{t`Why`}</h2>
      <p>{say(why.data.said)}</p>
      {why.data.run && <p className="mt-1 text-mute">{say(why.data.run)}</p>}
      {(why.data.reasons.length > 0 || why.data.holders.length > 0) && (
        <button className="btn btn-sm mt-2" onClick={() => setFull(true)}>
          {t`Details`}
        </button>
      )}
      {full && <WhyDialog w={why.data} close={() => setFull(false)} />}
    </section>
  );
});

function WhyDialog({ w, close }: { w: Schemas['WhyView']; close: () => void }) {
  return (
    <Dialog title={t`Why ${w.order} line ${w.no} has what it has`} close={close} wide="more">
      <div className="max-h-[62vh] overflow-y-auto">
        <p>{say(w.said)}</p>
        {w.run && (
          <>
            <h3 className="mt-4 mb-1 font-head">{say(w.run)}</h3>
            <table className="grid-table">
              <tbody>
                {w.reasons.map((r, i) => (
                  <tr key={i}>
                    <td className="num w-[60px] align-top font-semibold">{showNum(r.qty)}</td>
                    <td className="whitespace-normal!">
                      {say(r.words)}
                      {r.after.length > 0 && (
                        <ul className="mt-1">
                          {r.after.map((a) => (
                            <li key={`${a.order}/${a.no}`} className="flex items-center gap-2 py-0.5">
                              <Tier n={a.tier} /> <OrderLink number={a.order} />{' '}
                              <span className="text-mute">
                                <Trans>
                                  line {a.no}, due {showDay(a.ship_by)}
                                </Trans>
                                {a.took > 0 && t`, took ${showNum(a.took)}`}
                                {a.by && t`, first by ${say(a.by)}`}
                              </span>
                            </li>
                          ))}
                          {r.more > 0 && (
                            <li className="text-mute">
                              <Trans>and {showNum(r.more)} more</Trans>
                            </li>
                          )}
                        </ul>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        )}
        {w.holders.length > 0 && (
          <>
            <h3 className="mt-4 mb-1 font-head">
              <Trans>
                Who holds units of {w.sku} at {w.where} now · {showNum(w.free)} free
              </Trans>
            </h3>
            <table className="grid-table">
              <tbody>
                {w.holders.map((h) => (
                  <tr key={`${h.order}/${h.no}`}>
                    <td>
                      <Tier n={h.tier} />
                    </td>
                    <td>
                      <OrderLink number={h.order} /> <span className="text-mute">{h.customer}</span>
                    </td>
                    <td>
                      <Trans>due {showDay(h.ship_by)}</Trans>
                    </td>
                    <td className="num font-semibold">{showNum(h.qty)}</td>
                    <td className="text-mute">{h.who && t`allocated by ${h.who}, ${showTime(h.at)}`}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        )}
      </div>
      <CloseFoot close={close} />
    </Dialog>
  );
}
