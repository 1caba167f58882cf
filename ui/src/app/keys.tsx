import { createContext, useContext, useEffect, useId, useMemo, useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';

interface Known {
  keys: string;
  does: string;
}
type Register = (id: string, k: Known | undefined) => void;

const Registry = createContext<Register>(() => {});
const List = createContext<Known[]>([]);

/** Keeps the list of keys that do something on the page that is shown. */
export function Keys({ children }: { children: ReactNode }) {
  const [known, setKnown] = useState<Record<string, Known>>({});
  const register = useMemo<Register>(
    () => (id, k) =>
      setKnown((was) => {
        const next = { ...was };
        if (k) next[id] = k;
        else delete next[id];
        return next;
      }),
    [],
  );
  const list = useMemo(() => Object.values(known), [known]);
  return (
    <Registry.Provider value={register}>
      <List.Provider value={list}>{children}</List.Provider>
    </Registry.Provider>
  );
}

export const useKnownKeys = () => useContext(List);

/** A key that does something while the component is shown, and says so in the list behind “?”. */
export function useKey(keys: string, does: string, fn: (e: KeyboardEvent) => void, { enabled = true, typing = false } = {}) {
  const id = useId();
  const register = useContext(Registry);
  useEffect(() => {
    if (!enabled) return;
    register(id, { keys, does });
    return () => register(id, undefined);
  }, [id, keys, does, enabled, register]);
  useHotkeys(
    keys,
    (e) => {
      if (document.querySelector('dialog[open]') || (!typing && isTyping(e))) return;
      e.preventDefault();
      fn(e);
    },
    { enabled, enableOnFormTags: true, useKey: ['?', '/', '[', ']'].includes(keys) },
  );
}

/** Whether the key is meant for a field. A quantity takes only digits, so letters still do what they do. */
function isTyping(e: KeyboardEvent): boolean {
  const el = e.target;
  if (el instanceof HTMLTextAreaElement || el instanceof HTMLSelectElement) return true;
  if (el instanceof HTMLInputElement && el.type === 'radio') return e.key === ' ' || e.key.startsWith('Arrow');
  if (!(el instanceof HTMLInputElement) || el.type === 'checkbox') return e.key === ' ' && el instanceof HTMLInputElement;
  return !(el.classList.contains('qty') && /^[a-z]$/i.test(e.key));
}
