import { t } from '@lingui/core/macro';
import { createContext, useContext, useId, useLayoutEffect, useRef, useSyncExternalStore, type ReactNode } from 'react';
import { bindingOf, Dispatcher, pageLayer } from './dispatcher';

/** The one dispatcher of the window. In development two actions with one key stop the page; else that is said in the console. */
const dispatcher = new Dispatcher((message) => {
  if (import.meta.env.DEV) throw new Error(message);
  console.error(message);
});
addEventListener('keydown', dispatcher.handle);

const Layer = createContext(pageLayer);

/** Keys of what stands in it, a dialog, instead of those of the page. */
export function KeyLayer({ children }: { children: ReactNode }) {
  const id = useId();
  useLayoutEffect(() => dispatcher.open(id), [id]);
  return <Layer value={id}>{children}</Layer>;
}

export interface KeyOptions {
  enabled?: boolean;
  /** Also while something is written into a field. */
  typing?: boolean;
  /** As often as the key repeats while it is held down. */
  repeat?: boolean;
  /** Under which it is listed behind “?”. */
  group?: string;
}

/** A key that does something while the component is shown, and says so in the list behind “?”. */
export function useKey(
  keys: string,
  does: string,
  fn: (e: KeyboardEvent) => void,
  { enabled = true, typing = false, repeat = false, group = t`On this page` }: KeyOptions = {},
) {
  const layer = useContext(Layer);
  const last = useRef(fn);
  // As soon as it is drawn: a key that is pressed in the same moment is not lost.
  useLayoutEffect(() => {
    last.current = fn;
  });
  useLayoutEffect(() => {
    if (!enabled) return;
    return dispatcher.add(bindingOf(keys, { does, group, layer, typing, repeat, run: (e) => last.current(e) }));
  }, [keys, does, enabled, typing, repeat, group, layer]);
}

/** All actions that have a key now. */
export const useKnownKeys = () => useSyncExternalStore(dispatcher.subscribe, dispatcher.list);
