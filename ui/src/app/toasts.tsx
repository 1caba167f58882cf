import { t } from '@lingui/core/macro';
import { useQueryClient } from '@tanstack/react-query';
import { RotateCcw, X } from 'lucide-react';
import { useCallback, useMemo, useRef, useState, type ReactNode } from 'react';
import { command, keyFor, wasStopped, type AskOf, type CommandPath } from '../api/call';
import { Telling, type Toast } from '../base/toasts';
import { DocumentLink, Key } from '../parts/bits';
import { plural } from '../base/format';
import { useProgress } from '../parts/useProgress';
import { useKey } from '../base/keys/useKey';

/** Those that stay when another comes: what is under way, and of the others the last two. */
const lately = (ts: Toast[]) => {
  const ended = ts.filter((toast) => !toast.working).slice(-2);
  return ts.filter((toast) => toast.working || ended.includes(toast));
};

/** After how many milliseconds a command is said to take its time. */
const patience = 1200;

/** What came of a command, with links to what it made and the way to take it back. */
export function Toasts({ children }: { children: ReactNode }) {
  const [toasts, setToasts] = useState<Toast[]>([]);
  const next = useRef(1);
  const queries = useQueryClient();
  const close = useCallback((id: number) => setToasts((ts) => ts.filter((toast) => toast.id !== id)), []);
  const tell = useCallback(
    (toast: Omit<Toast, 'id'>) => {
      const id = next.current++;
      setToasts((ts) => [...lately(ts), { ...toast, id }]);
      setTimeout(() => close(id), toast.undo !== undefined ? 60_000 : toast.bad ? 20_000 : 10_000);
    },
    [close],
  );
  const carryOut = useCallback(
    async <P extends CommandPath>(path: P, ask: AskOf<P>, reason?: string) => {
      const key = keyFor(path, ask, reason);
      const stop = new AbortController();
      const id = next.current++;
      const show = (text: string) =>
        setToasts((ts) => [
          ...lately(ts.filter((toast) => toast.id !== id)),
          { id, text, working: { key, stop: () => stop.abort() } },
        ]);
      const timer = setTimeout(() => show(t`Working`), patience);
      try {
        return await command(path, ask, reason, key, stop.signal, () => {
          clearTimeout(timer);
          show(t`No answer came. Finding out whether it was done`);
        });
      } finally {
        clearTimeout(timer);
        close(id);
      }
    },
    [close],
  );
  const undo = async (toast: Toast) => {
    if (toast.undo === undefined) return;
    close(toast.id);
    try {
      const o = await carryOut('/api/undo', { command: toast.undo });
      tell({ text: o.sentence, undo: wasStopped(o) ? toast.undo : undefined });
    } catch (e) {
      tell({ text: (e as Error).message, bad: true });
    }
    void queries.invalidateQueries();
  };
  const last = toasts.findLast((toast) => toast.undo !== undefined);
  useKey('u', t`Undo the last action`, () => last && void undo(last), { enabled: last !== undefined });
  const value = useMemo(() => ({ tell, carryOut }), [tell, carryOut]);
  return (
    <Telling value={value}>
      {children}
      <div className="pointer-events-none fixed right-4 bottom-16 z-40 flex w-[380px] flex-col gap-2" aria-live="polite">
        {toasts.map((toast) => (
          <div
            key={toast.id}
            role={toast.bad ? 'alert' : 'status'}
            className={`pointer-events-auto rounded-box border bg-card p-3 shadow-lg ${toast.bad ? 'border-late' : 'border-line'}`}
          >
            <div className="flex items-start gap-2">
              <p className="flex-1">
                {toast.bad && <span className="late">{toast.stale ? t`Refused. ` : t`Failed. `}</span>}
                {toast.working ? <StepOf progress={toast.working.key} otherwise={toast.text} /> : toast.text}{' '}
                {toast.documents?.map((d) => (
                  <span key={d.number} className="mr-2 inline-block">
                    <DocumentLink kind={d.kind} number={d.number} />
                  </span>
                ))}
              </p>
              {!toast.working && (
                <button aria-label={t`Close`} className="cursor-pointer text-mute" onClick={() => close(toast.id)}>
                  <X size={14} />
                </button>
              )}
            </div>
            {toast.working && <Working of={toast.working} />}
            {toast.undo !== undefined && (
              <button className="btn btn-sm mt-2" onClick={() => void undo(toast)}>
                <RotateCcw size={13} aria-hidden /> {t`Undo`} {toast.id === last?.id && <Key>U</Key>}
              </button>
            )}
          </div>
        ))}
      </div>
    </Telling>
  );
}

/** What a long command is at. */
function StepOf({ progress, otherwise }: { progress: string; otherwise: string }) {
  const p = useProgress(progress);
  return (
    <>
      {p?.step ?? otherwise}
      {p && p.total > 0 && ` · ${plural(p.total, 'line')}`}…
    </>
  );
}

function Working({ of: { stop } }: { of: NonNullable<Toast['working']> }) {
  return (
    <div className="mt-2 flex items-center gap-3">
      <progress className="progress flex-1" aria-label={t`Progress`} />
      <button className="btn btn-sm" onClick={stop}>
        {t`Cancel`}
      </button>
    </div>
  );
}
