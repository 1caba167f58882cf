import { useQueryClient } from '@tanstack/react-query';
import { RotateCcw, X } from 'lucide-react';
import { useCallback, useMemo, useRef, useState, type ReactNode } from 'react';
import { command, keyFor, wasStopped, type AskOf, type CommandPath } from '../api/call';
import { Telling, type Toast } from '../base/toasts';
import { DocumentLink, Key } from '../parts/bits';
import { showNum } from '../base/format';
import { useProgress } from '../parts/useProgress';
import { useKey } from '../base/keys/useKey';

/** Those that stay when another comes: what is under way, and of the others the last two. */
const lately = (ts: Toast[]) => {
  const ended = ts.filter((t) => !t.working).slice(-2);
  return ts.filter((t) => t.working || ended.includes(t));
};

/** After how many milliseconds a command is said to take its time. */
const patience = 1200;

/** What came of a command, with links to what it made and the way to take it back. */
export function Toasts({ children }: { children: ReactNode }) {
  const [toasts, setToasts] = useState<Toast[]>([]);
  const next = useRef(1);
  const queries = useQueryClient();
  const close = useCallback((id: number) => setToasts((ts) => ts.filter((t) => t.id !== id)), []);
  const tell = useCallback(
    (t: Omit<Toast, 'id'>) => {
      const id = next.current++;
      setToasts((ts) => [...lately(ts), { ...t, id }]);
      setTimeout(() => close(id), t.undo !== undefined ? 60_000 : t.bad ? 20_000 : 10_000);
    },
    [close],
  );
  const carryOut = useCallback(
    async <P extends CommandPath>(path: P, ask: AskOf<P>, reason?: string) => {
      const key = keyFor(path, ask, reason);
      const stop = new AbortController();
      const id = next.current++;
      const show = (text: string) =>
        setToasts((ts) => [...lately(ts.filter((t) => t.id !== id)), { id, text, working: { key, stop: () => stop.abort() } }]);
      const timer = setTimeout(() => show('Working'), patience);
      try {
        return await command(path, ask, reason, key, stop.signal, () => {
          clearTimeout(timer);
          show('No answer came. Finding out whether it was done');
        });
      } finally {
        clearTimeout(timer);
        close(id);
      }
    },
    [close],
  );
  const undo = async (t: Toast) => {
    if (t.undo === undefined) return;
    close(t.id);
    try {
      const o = await carryOut('/api/undo', { command: t.undo });
      tell({ text: o.sentence, undo: wasStopped(o) ? t.undo : undefined });
    } catch (e) {
      tell({ text: (e as Error).message, bad: true });
    }
    void queries.invalidateQueries();
  };
  const last = toasts.findLast((t) => t.undo !== undefined);
  useKey('u', 'Undo the last action', () => last && void undo(last), { enabled: last !== undefined });
  const value = useMemo(() => ({ tell, carryOut }), [tell, carryOut]);
  return (
    <Telling value={value}>
      {children}
      <div className="pointer-events-none fixed right-4 bottom-16 z-40 flex w-[380px] flex-col gap-2" aria-live="polite">
        {toasts.map((t) => (
          <div
            key={t.id}
            role={t.bad ? 'alert' : 'status'}
            className={`pointer-events-auto rounded-box border bg-card p-3 shadow-lg ${t.bad ? 'border-late' : 'border-line'}`}
          >
            <div className="flex items-start gap-2">
              <p className="flex-1">
                {t.bad && <span className="late">{t.stale ? 'Refused. ' : 'Failed. '}</span>}
                {t.working ? <StepOf progress={t.working.key} otherwise={t.text} /> : t.text}{' '}
                {t.documents?.map((d) => (
                  <span key={d.number} className="mr-2 inline-block">
                    <DocumentLink kind={d.kind} number={d.number} />
                  </span>
                ))}
              </p>
              {!t.working && (
                <button aria-label="Close" className="cursor-pointer text-mute" onClick={() => close(t.id)}>
                  <X size={14} />
                </button>
              )}
            </div>
            {t.working && <Working of={t.working} />}
            {t.undo !== undefined && (
              <button className="btn btn-sm mt-2" onClick={() => void undo(t)}>
                <RotateCcw size={13} aria-hidden /> Undo {t.id === last?.id && <Key>U</Key>}
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
      {p && p.total > 0 && ` · ${showNum(p.total)} lines`}…
    </>
  );
}

function Working({ of: { stop } }: { of: NonNullable<Toast['working']> }) {
  return (
    <div className="mt-2 flex items-center gap-3">
      <progress className="progress flex-1" aria-label="Progress" />
      <button className="btn btn-sm" onClick={stop}>
        Cancel
      </button>
    </div>
  );
}
