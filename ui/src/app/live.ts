import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useSigned } from '../base/session';
import { useToasts } from '../base/toasts';

interface Change {
  command?: number;
  who?: string;
  orders?: string[];
  skus?: string[];
  all?: boolean;
  /** What came of what they asked for before. */
  news?: string;
}

/** Lists that any change may touch; pages of one thing are refreshed only when it is theirs. */
const single: Record<string, 'orders' | 'skus'> = { order: 'orders', trail: 'orders', item: 'skus' };

/**
 * Follows what colleagues do and fetches again what is shown and touched. Returns
 * whether the stream is up.
 */
export function useLive() {
  const queries = useQueryClient();
  const [up, setUp] = useState(true);
  const { me } = useSigned();
  const { tell } = useToasts();
  const hear = useRef<(c: Change) => void>(() => {});
  useEffect(() => {
    hear.current = (c) => {
      if (c.news && c.who === me.name) tell({ text: c.news });
    };
  });
  useEffect(() => {
    let gathered: Change[] = [];
    let timer: ReturnType<typeof setTimeout> | undefined;
    let wasDown = false;
    const refresh = () => {
      timer = undefined;
      const changes = gathered;
      gathered = [];
      const all = changes.some((c) => c.all);
      void queries.invalidateQueries({
        predicate: (q) => {
          const [name, key] = q.queryKey as [string, string | undefined];
          if (name === 'me' || name === 'search') return false;
          const of = single[name];
          if (all || !of) return true;
          // An order is touched, too, when the stock of one of its items is.
          const skus = (q.state.data as { lines?: { sku: string }[] } | undefined)?.lines?.map((l) => l.sku) ?? [];
          return changes.some((c) => c[of]?.includes(key ?? '') || (name === 'order' && c.skus?.some((s) => skus.includes(s))));
        },
      });
    };
    let source: EventSource;
    let tries = 0;
    let again: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      source = new EventSource('/api/live');
      source.onopen = () => {
        setUp(true);
        tries = 0;
        if (wasDown) void queries.invalidateQueries();
        wasDown = false;
      };
      source.onerror = () => {
        wasDown = true;
        setUp(false);
        // A connection that broke is tried again by the browser itself; one that was refused is not.
        if (source.readyState !== EventSource.CLOSED) return;
        void queries.invalidateQueries({ queryKey: ['me'] });
        again = setTimeout(open, Math.min(30_000, 1000 * 2 ** tries++));
      };
      source.onmessage = (m) => {
        const changes = JSON.parse(String(m.data)) as Change[];
        changes.forEach((c) => hear.current(c));
        gathered.push(...changes);
        timer ??= setTimeout(refresh, 120);
      };
    };
    open();
    return () => {
      clearTimeout(timer);
      clearTimeout(again);
      source.close();
    };
  }, [queries]);
  return up;
}
