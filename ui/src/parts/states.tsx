import { t } from '@lingui/core/macro';
import type { ReactNode } from 'react';
import { Refused } from '../api/call';

/** Why there is nothing, and what to do next. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="alert note-box my-4 max-w-[640px]">
      <p className="font-semibold">{title}</p>
      {children && <div className="mt-1 text-mute">{children}</div>}
    </div>
  );
}

export function Failed({ error, again }: { error: Error; again: () => void }) {
  return (
    <div className="alert note-box my-4 max-w-[640px]" role="alert">
      <p className="late">{error instanceof Refused && error.status === 404 ? t`Not here` : t`This could not be shown`}</p>
      <p className="mt-1">{error.message}</p>
      <button className="btn btn-sm mt-2" onClick={again}>
        {t`Try again`}
      </button>
    </div>
  );
}

/** What is asked of the server, as far as it has come. */
interface Asked<T> {
  data: T | undefined;
  error: Error | null;
  refetch: () => unknown;
}

/** Shows the data, or that it is being fetched, or why it cannot be. */
export function Load<T>({ of, children }: { of: Asked<T>; children: (data: T) => ReactNode }) {
  if (of.data !== undefined) return <>{children(of.data)}</>;
  if (of.error) return <Failed error={of.error} again={() => void of.refetch()} />;
  return <Waiting />;
}

export function Waiting() {
  return (
    <div className="space-y-2 py-3" aria-busy="true" aria-label={t`Loading`}>
      {[92, 78, 85, 60].map((w) => (
        <div key={w} className="h-4 rounded bg-line/60" style={{ width: `${w}%` }} />
      ))}
    </div>
  );
}
