import { useSyncExternalStore } from 'react';

export type Theme = 'day' | 'night';
const heard = new Set<() => void>();

function current(): Theme {
  const kept = localStorage.getItem('theme');
  if (kept === 'day' || kept === 'night') return kept;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day';
}

export function applyTheme() {
  document.documentElement.dataset.theme = current();
}

export function useTheme(): [Theme, () => void] {
  const theme = useSyncExternalStore((f) => {
    heard.add(f);
    return () => heard.delete(f);
  }, current);
  return [
    theme,
    () => {
      localStorage.setItem('theme', theme === 'day' ? 'night' : 'day');
      applyTheme();
      heard.forEach((f) => f());
    },
  ];
}
