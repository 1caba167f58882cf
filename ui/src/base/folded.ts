import { useSyncExternalStore } from 'react';

const name = 'journeyman.lookaside';
const heard = new Set<() => void>();

const subscribe = (f: () => void) => {
  heard.add(f);
  return () => void heard.delete(f);
};

/** Folded if somebody folded it, or, as long as nobody has said, if the screen is too narrow for it. */
function folded(): boolean {
  const said = localStorage.getItem(name);
  return said === null ? innerWidth < 1100 : said === 'folded';
}

/** Whether the lookaside is folded away, on this machine, and what folds or opens it. */
export function useFolded(): [boolean, () => void] {
  const now = useSyncExternalStore(subscribe, folded);
  return [
    now,
    () => {
      localStorage.setItem(name, now ? 'open' : 'folded');
      heard.forEach((f) => f());
    },
  ];
}
