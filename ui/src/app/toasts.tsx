import { t } from '@lingui/core/macro';
import { useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useCallback, useMemo, useState, useSyncExternalStore, type ReactNode } from 'react';
import { UNSTABLE_ToastQueue } from 'react-aria-components';
import { command, keyFor, wasStopped, type AskOf, type CommandPath } from '../api/call';
import { Telling, type Shown, type Toast } from '../base/toasts';
import { useKey } from '../base/keys/useKey';

/** After how many milliseconds a command is said to take its time. */
const patience = 1200;

/** Those that stay when another comes: what is under way, and of the others the last three. */
const stay = 3;

/** What the region of toasts is made of comes when there is something to say for the first time, or when there is nothing else to do. */
export const fetchRegion = () => import('./ToastRegion');
const ToastRegion = lazy(() => fetchRegion().then((m) => ({ default: m.ToastRegion })));

/** What came of a command, with links to what it made and the way to take it back. */
export function Toasts({ children }: { children: ReactNode }) {
  const [queue] = useState(() => new UNSTABLE_ToastQueue<Toast>());
  const toasts = useSyncExternalStore(
    useCallback((changed) => queue.subscribe(changed), [queue]),
    () => queue.visibleToasts,
  );
  const [began, begin] = useState(false);
  if (toasts.length > 0 && !began) begin(true);
  const queries = useQueryClient();
  const close = useCallback((key: string) => queue.close(key), [queue]);
  const show = useCallback(
    (toast: Toast, timeout?: number) => {
      const key = queue.add(toast, { timeout });
      for (const old of queue.visibleToasts.filter((shown) => !shown.content.working).slice(stay)) queue.close(old.key);
      return key;
    },
    [queue],
  );
  const tell = useCallback(
    (toast: Toast) => void show(toast, toast.undo !== undefined ? 60_000 : toast.bad ? 20_000 : 10_000),
    [show],
  );
  const carryOut = useCallback(
    async <P extends CommandPath>(path: P, ask: AskOf<P>, reason?: string) => {
      const key = keyFor(path, ask, reason);
      const stop = new AbortController();
      let shown = '';
      const say = (text: string) => {
        close(shown);
        shown = show({ text, working: { key, stop: () => stop.abort() } });
      };
      const timer = setTimeout(() => say(t`Working`), patience);
      try {
        return await command(path, ask, reason, key, stop.signal, () => {
          clearTimeout(timer);
          say(t`No answer came. Finding out whether it was done`);
        });
      } finally {
        clearTimeout(timer);
        close(shown);
      }
    },
    [close, show],
  );
  const undo = async ({ key, content: toast }: Shown) => {
    if (toast.undo === undefined) return;
    close(key);
    try {
      const o = await carryOut('/api/undo', { command: toast.undo });
      tell({ text: o.sentence, undo: wasStopped(o) ? toast.undo : undefined });
    } catch (e) {
      tell({ text: (e as Error).message, bad: true });
    }
    void queries.invalidateQueries();
  };
  const last = toasts.find((shown) => shown.content.undo !== undefined);
  useKey('u', t`Undo the last action`, () => last && void undo(last), { enabled: last !== undefined });
  const value = useMemo(() => ({ tell, carryOut }), [tell, carryOut]);
  return (
    <Telling value={value}>
      {children}
      {began && (
        <Suspense>
          <ToastRegion queue={queue} undo={(shown) => void undo(shown)} last={last?.key} />
        </Suspense>
      )}
    </Telling>
  );
}
