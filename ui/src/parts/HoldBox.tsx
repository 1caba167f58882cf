import { t } from '@lingui/core/macro';
import type { ReactNode } from 'react';
import type { Schemas } from '../api/call';
import { showTime } from '../base/format';
import { useSigned } from '../base/session';
import { Holds } from './bits';

/** A hold that stands, with who placed it and why, and what lifts it: or who may. */
export function HoldBox({
  of: h,
  lift,
  busy,
  children,
}: {
  of: Schemas['HoldView'];
  lift: () => void;
  busy: boolean;
  children?: ReactNode;
}) {
  const { may } = useSigned();
  const why =
    h.manager && !may('lift any hold') ? t`A ${h.kind} hold is lifted by a manager.` : may('lift') ? '' : t`For a coordinator.`;
  return (
    <div className="alert note-box mb-3 flex items-center gap-3">
      <Holds of={[h.kind]} />
      <span className="flex-1">
        {h.note}{' '}
        <span className="text-mute">
          {h.who}, {showTime(h.at)}
        </span>
        {children}
      </span>
      {why ? (
        <span className="text-mute">{why}</span>
      ) : (
        <button className="btn btn-sm" disabled={busy} onClick={lift}>
          {t`Lift the hold`}
        </button>
      )}
    </div>
  );
}
