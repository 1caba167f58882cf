import { t } from '@lingui/core/macro';
import { useEffect, useState } from 'react';
import type { Schemas } from '../api/call';
import { showClock, showSpan } from '../base/format';

/** When the first carrier comes for something on the list, and how long that is; late if it has passed. */
export function CutOffIn({ of: l, brief }: { of: Schemas['ListView']; brief?: boolean }) {
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 30_000);
    return () => clearInterval(timer);
  }, []);
  if (!l.cut_off || l.due === 0) return null;
  const at = Date.parse(l.cut_off);
  const left = Math.floor((at - now) / 1000);
  const clock = showClock(at);
  if (left < 0) return <span className="late">{brief ? t`${clock}, gone` : t`carrier came at ${clock}`}</span>;
  const span = showSpan(left);
  return (
    <span className={left < l.seconds ? 'late' : ''}>{brief ? t`${clock}, in ${span}` : t`carrier at ${clock}, in ${span}`}</span>
  );
}
