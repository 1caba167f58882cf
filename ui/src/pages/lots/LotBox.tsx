import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type CommandPath, type Schemas } from '../../api/call';
import { plural, showNum, showTime } from '../../base/format';
import { say } from '../../base/say';
import { useSigned } from '../../base/session';
import { Act } from '../../parts/Act';
import { DocumentLink, OrderLink } from '../../parts/bits';
import { Dialog } from '../../parts/Dialog';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';

type Head = Schemas['LotHead'];
type Ask = 'recall' | 'write off';

const ofLot = (sku: string, lot: string) => ({ params: { query: { sku, lot } } });

/** One lot: whether it may be sent, where it is, and what was noted of it. */
export function LotBox({ sku, lot }: { sku: string; lot: string }) {
  const head = useQuery({
    queryKey: ['lot', sku, lot],
    queryFn: ({ signal }) => ask(client.GET('/api/lot', { ...ofLot(sku, lot), signal })),
    retry: false,
  });
  return <Load of={head}>{(h) => <Box of={h} />}</Load>;
}

function Box({ of: h }: { of: Head }) {
  const { may } = useSigned();
  const lift = useCommand('/api/lift-lot');
  const [asks, setAsks] = useState<Ask>();
  const [trail, setTrail] = useState(false);
  const why = may('recall a lot') ? '' : t`For a coordinator.`;
  const inHand = h.picked + h.packed;
  return (
    <section
      aria-label={t`Lot ${h.lot}`}
      className={`mb-2 rounded-box border p-3 ${h.recalled ? 'alert late block' : 'border-line bg-card'}`}
    >
      <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
        <div className="min-w-0 flex-1">
          <p>
            <b>{h.item}</b>{' '}
            {h.recalled ? (
              <b>
                <Trans>
                  must not be sent: {h.recalled.who}, {showTime(h.recalled.at)}.
                </Trans>{' '}
                {h.recalled.why}
              </b>
            ) : (
              <span className="text-mute">{t`may be sent`}</span>
            )}
          </p>
          <p className="mt-1">
            {[
              t`In bins: ${showNum(h.in_bins)}` + (h.aside > 0 ? ` (${t`set aside: ${showNum(h.aside)}`})` : ''),
              inHand > 0 && t`picked or packed: ${showNum(inHand)}`,
              h.to_put_back > 0 && t`to be put back: ${showNum(h.to_put_back)}`,
              h.gone > 0
                ? t`left the house: ${showNum(h.gone)}, to ${plural(h.customers, 'customer')}`
                : t`none has left the house`,
            ]
              .filter(Boolean)
              .join(' · ')}
          </p>
        </div>
        <span className="flex flex-wrap items-center gap-2">
          <button className="btn btn-sm" aria-expanded={trail} onClick={() => setTrail(!trail)}>
            {t`What was noted`}
          </button>
          {h.to_put_back > 0 && (
            <Link to="/put-back" className="btn btn-sm">
              {t`Put back`}
            </Link>
          )}
          {h.recalled && h.aside > 0 && (
            <button className="btn btn-sm" disabled={why !== ''} onClick={() => setAsks('write off')}>
              {t`Write off…`}
            </button>
          )}
          {h.recalled && (
            <button
              className="btn btn-sm"
              disabled={why !== '' || lift.busy}
              onClick={() => lift.run({ ask: { sku: h.sku, lot: h.lot } })}
            >
              {t`It may be sent again`}
            </button>
          )}
          {(!h.recalled || h.in_bins > h.aside || inHand > h.to_put_back) && (
            <Act keys="l" does={t`Recall the lot`} why={why} run={() => setAsks('recall')}>
              {h.recalled ? t`Recall the rest…` : t`Recall the lot…`}
            </Act>
          )}
        </span>
      </div>
      {trail && <Trail of={h} />}
      {asks && <LotDialog of={h} asks={asks} close={() => setAsks(undefined)} />}
    </section>
  );
}

/** What was noted of the lot, the latest first. */
function Trail({ of: h }: { of: Head }) {
  return (
    <ol className="mt-2 max-h-44 space-y-0.5 overflow-y-auto border-t border-line pt-2" aria-label={t`What was noted`}>
      {h.trail.map((m) => (
        <li key={m.command} className="flex flex-wrap gap-x-2">
          <span className="w-[122px] shrink-0 text-mute">{showTime(m.at)}</span>
          <b>{m.who}</b> {say(m.text)}
          {m.order && <OrderLink number={m.order} />}
          {m.shipment && <DocumentLink kind="shipment" number={m.shipment} />}
          {m.receipt && <DocumentLink kind="inbound" number={m.receipt} />}
          {m.why && <span className="text-mute">{m.why}</span>}
        </li>
      ))}
    </ol>
  );
}

/** Says what it would do, and asks why. */
function LotDialog({ of: h, asks, close }: { of: Head; asks: Ask; close: () => void }) {
  const [why, setWhy] = useState('');
  const path: CommandPath = asks === 'recall' ? '/api/recall-lot' : '/api/write-off-lot';
  const run = useCommand(path, close);
  const tried = useQuery({
    queryKey: ['lot try', h.sku, h.lot],
    queryFn: ({ signal }) => ask(client.GET('/api/rehearse-lot', { ...ofLot(h.sku, h.lot), signal })),
    enabled: asks === 'recall',
  });
  return (
    <Dialog
      title={asks === 'recall' ? t`Recall lot ${h.lot} of ${h.sku}?` : t`Write off what is set aside of lot ${h.lot}?`}
      close={close}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (why.trim()) run.run({ ask: { sku: h.sku, lot: h.lot }, reason: why.trim() });
        }}
      >
        {asks === 'recall' ? (
          <Load of={tried}>
            {(x) => (
              <ul className="space-y-0.5">
                {x.does.map((m, i) => (
                  <li key={i}>{say(m)}</li>
                ))}
                <li className="text-mute">{t`Whoever scans it at picking or packing, and whoever dispatches it, is told, and why.`}</li>
                {x.gone > 0 && (
                  <li className="text-mute">{t`Who got it stands in the list, with their addresses; take it along as a file.`}</li>
                )}
              </ul>
            )}
          </Load>
        ) : (
          <p>
            <Trans>
              They are gone from the house for good: <b>{plural(h.aside, 'unit')}</b>.
            </Trans>
          </p>
        )}
        <label className="mt-3 block">
          <span className="text-mute">
            {asks === 'recall' ? t`Why? Everybody who meets the lot sees this.` : t`What has become of them?`}
          </span>
          <input
            className="input input-sm mt-1 w-full"
            maxLength={500}
            value={why}
            onChange={(e) => setWhy(e.target.value)}
            autoFocus
          />
        </label>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={!why.trim() || run.busy}>
            {asks === 'recall' ? t`Recall it` : t`Write it off`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
