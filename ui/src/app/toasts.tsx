import { useQueryClient } from '@tanstack/react-query';
import { RotateCcw, X } from 'lucide-react';
import { createContext, useCallback, useContext, useMemo, useRef, useState, type ReactNode } from 'react';
import { command, type Outcome } from '../api/call';
import { DocumentLink, Key } from '../parts/bits';
import { useKey } from './keys';

interface Toast {
  id: number;
  text: string;
  bad?: boolean;
  stale?: boolean;
  documents?: Outcome['documents'];
  undo?: number;
}

const Context = createContext<{ tell: (t: Omit<Toast, 'id'>) => void }>({ tell: () => {} });
export const useToasts = () => useContext(Context);

/** What came of a command, with links to what it made and the way to take it back. */
export function Toasts({ children }: { children: ReactNode }) {
  const [toasts, setToasts] = useState<Toast[]>([]);
  const next = useRef(1);
  const queries = useQueryClient();
  const close = useCallback((id: number) => setToasts((ts) => ts.filter((t) => t.id !== id)), []);
  const tell = useCallback(
    (t: Omit<Toast, 'id'>) => {
      const id = next.current++;
      setToasts((ts) => [...ts.slice(-2), { ...t, id }]);
      setTimeout(() => close(id), t.bad ? 20_000 : 10_000);
    },
    [close],
  );
  const undo = async (t: Toast) => {
    if (t.undo === undefined) return;
    close(t.id);
    try {
      tell({ text: (await command('/api/undo', { command: t.undo })).sentence });
    } catch (e) {
      tell({ text: (e as Error).message, bad: true });
    }
    void queries.invalidateQueries();
  };
  const last = toasts.findLast((t) => t.undo !== undefined);
  useKey('u', 'Take back what was just done', () => last && void undo(last), { enabled: last !== undefined });
  const value = useMemo(() => ({ tell }), [tell]);
  return (
    <Context.Provider value={value}>
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
                {t.bad && <span className="late">{t.stale ? 'Refused. ' : 'Not done. '}</span>}
                {t.text}{' '}
                {t.documents?.map((d) => (
                  <span key={d.number} className="mr-2 inline-block">
                    <DocumentLink kind={d.kind} number={d.number} />
                  </span>
                ))}
              </p>
              <button aria-label="Close" className="cursor-pointer text-mute" onClick={() => close(t.id)}>
                <X size={14} />
              </button>
            </div>
            {t.undo !== undefined && (
              <button className="act mt-2" onClick={() => void undo(t)}>
                <RotateCcw size={13} aria-hidden /> Take it back {t.id === last?.id && <Key>U</Key>}
              </button>
            )}
          </div>
        ))}
      </div>
    </Context.Provider>
  );
}
