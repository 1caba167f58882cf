import { t } from '@lingui/core/macro';
import { Link } from '@tanstack/react-router';
import { createContext, useContext, useState } from 'react';
import { showDay, showNum } from '../../base/format';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { Key } from '../../parts/bits';
import type { AskOf } from '../../api/call';
import { Dialog } from '../../parts/Dialog';
import { useCommand } from '../../parts/useCommand';
import type { Line } from './useReleasing';

/** Why the lines of the list cannot go, and what takes the look-ahead to a later day. */
export const RemedyContext = createContext<{ state: string; lookTo: (day: string) => void }>({
  state: '',
  lookTo: () => undefined,
});

/** What can be done about a line that cannot go: one button, with a key where the row has the focus. */
export function Remedy({ of: l, focused }: { of: Line; focused: boolean }) {
  const { state, lookTo } = useContext(RemedyContext);
  const { may } = useSigned();
  const lift = useCommand('/api/lift');
  const allocate = useCommand('/api/allocate');
  const [binning, setBinning] = useState(false);
  const can = l.can.find((c) => c.verb === 'allocate');
  const kind = l.holds[0] as AskOf<'/api/lift'>['kind'] | undefined;
  let act: { text: string; run: () => void } | undefined;
  if (state === 'not_due') act = { text: t`Release until ${showDay(l.ship_by)}`, run: () => lookTo(l.ship_by) };
  const leaves = l.not_before;
  if (state === 'not_before' && leaves) act = { text: t`Release until ${showDay(leaves)}`, run: () => lookTo(leaves) };
  if (state === 'on_hold' && kind && may('lift')) {
    act = { text: t`Lift the ${kind} hold`, run: () => lift.run({ ask: { order: l.order, kind } }) };
  }
  if ((state === 'rule_line' || state === 'rule_order') && can && can.qty > 0 && may('allocate')) {
    act = {
      text: t`Allocate ${showNum(can.qty)} more`,
      run: () => allocate.run({ ask: { lines: [{ line: l.id, qty: can.qty, seen: l.version }] } }),
    };
  }
  if (state === 'no_bin' && may('set a bin')) act = { text: t`Set its bin…`, run: () => setBinning(true) };
  useKey('b', t`Do what lets the line go`, () => act?.run(), { enabled: focused && act !== undefined });
  if (!act) {
    return (
      <Link to="/orders/$number" params={{ number: l.order }} className="btn btn-xs btn-pill">
        {t`Open its order`}
      </Link>
    );
  }
  return (
    <>
      <button className="btn btn-xs btn-pill" disabled={lift.busy || allocate.busy} onClick={act.run}>
        {act.text} {focused && <Key>B</Key>}
      </button>
      {binning && <SetBin of={l} close={() => setBinning(false)} />}
    </>
  );
}

/** Asks in which bin an item lies. */
function SetBin({ of: l, close }: { of: Line; close: () => void }) {
  const set = useCommand('/api/set-bin', close);
  const [bin, setBin] = useState('');
  return (
    <Dialog title={t`In which bin does ${l.sku} lie at ${l.warehouse}?`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (bin.trim()) set.run({ ask: { sku: l.sku, warehouse: l.warehouse, bin: bin.trim() } });
        }}
      >
        <p className="text-mute">{l.item}</p>
        <label className="mt-2 block">
          <span className="text-mute">{t`Bin`}</span>
          <input
            className="input input-sm mt-1 w-full"
            maxLength={20}
            placeholder="C-14-2"
            value={bin}
            onChange={(e) => setBin(e.target.value.toUpperCase())}
          />
        </label>
        <p className="mt-1 text-small text-mute">{t`It is remembered: all of it here that lies in no bin lies there from then on.`}</p>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={!bin.trim() || set.busy}>
            {t`Set the bin`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
