import { useQueryClient, type Query, type QueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { concerns, type Change } from '../base/concerns';
import { useSigned } from '../base/session';
import { follow } from '../base/stream';
import { useToasts } from '../base/toasts';
import { say } from '../base/say';

/** For how many milliseconds changes are gathered before what is shown is asked for again. */
const gather = 150;

/**
 * Asks for what changes concern. A question that is under way is not broken off, since it would never be answered while others work fast:
 * it is asked once more when its answer has come.
 */
export class Renewing {
  private gathered: Change[] = [];
  private timer?: ReturnType<typeof setTimeout>;
  private readonly again = new Set<string>();

  constructor(private readonly queries: QueryClient) {}

  take(changes: Change[]) {
    this.gathered.push(...changes);
    this.timer ??= setTimeout(() => this.run(), gather);
  }

  end() {
    clearTimeout(this.timer);
  }

  private run() {
    this.timer = undefined;
    const changes = this.gathered;
    this.gathered = [];
    for (const q of this.queries.getQueryCache().getAll()) {
      const lines = (q.state.data as { lines?: unknown } | undefined)?.lines;
      const skus = Array.isArray(lines) ? lines.map((l: { sku?: string }) => l.sku ?? '') : [];
      if (changes.some((c) => concerns(c, q.queryKey, skus))) this.renew(q);
    }
  }

  private renew(q: Query) {
    const go = () => void this.queries.invalidateQueries({ queryKey: q.queryKey, exact: true });
    if (q.state.fetchStatus !== 'fetching') return go();
    if (this.again.has(q.queryHash)) return;
    this.again.add(q.queryHash);
    void Promise.resolve(q.promise)
      .catch(() => {})
      .finally(() => {
        this.again.delete(q.queryHash);
        go();
      });
  }
}

/** Follows what colleagues do and asks again for what it concerns. Returns until when all of it was heard, if the stream is down. */
export function useLive(): number | undefined {
  const queries = useQueryClient();
  const [since, setSince] = useState<number>();
  const { me } = useSigned();
  const { tell } = useToasts();
  const hear = useRef<(c: Change) => void>(() => {});
  useEffect(() => {
    hear.current = (c) => {
      if (c.news && c.who === me.name) tell({ text: say(c.news) });
    };
  });
  useEffect(() => {
    const renewing = new Renewing(queries);
    const stream = follow('/api/live', {
      changes: (cs) => {
        cs.forEach((c) => hear.current(c));
        renewing.take(cs);
      },
      back: () => renewing.take([{ all: true }]),
      state: setSince,
      refused: () => void queries.invalidateQueries({ queryKey: ['me'] }),
    });
    const look = () => document.visibilityState === 'visible' && stream.check();
    const events = ['visibilitychange', 'pageshow', 'online', 'focus'] as const;
    events.forEach((e) => addEventListener(e, look));
    return () => {
      events.forEach((e) => removeEventListener(e, look));
      renewing.end();
      stream.stop();
    };
  }, [queries]);
  return since;
}
