import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { useToasts } from '../../base/toasts';

type Step = Schemas['Step'];
type Tried = Record<number, number>;
interface Place {
  sku: string;
  warehouse: string;
}

/** The question for what is tried. */
export const asked = (of: Place, policy: string, tried: Tried) => ({
  ...of,
  units: policy ? undefined : Object.entries(tried).map(([line, allocated]) => ({ line: Number(line), allocated })),
  policy: policy || undefined,
});

/**
 * Takes steps with what is tried, one after another: the server knows the packs and what is left. Keys that are pressed while an answer is
 * on its way wait for it.
 */
export function useSteps(of: Place, policy: string, tried: Tried, set: (now: Tried) => void) {
  const queries = useQueryClient();
  const { tell } = useToasts();
  const latest = useRef({ of, policy, tried, set });
  useEffect(() => {
    latest.current = { of, policy, tried, set };
  });
  const waiting = useRef<Step[]>([]);
  const running = useRef(false);
  const run = async () => {
    if (running.current) return;
    running.current = true;
    let { policy, tried } = latest.current;
    try {
      for (let step = waiting.current.shift(); step; step = waiting.current.shift()) {
        const { of, set } = latest.current;
        const view = await ask(client.POST('/api/contest', { body: { ...asked(of, policy, tried), step } }));
        tried = Object.fromEntries(view.claims.filter((c) => c.gets !== c.has).map((c) => [c.line, c.gets]));
        policy = '';
        queries.setQueryData(['contest', asked(of, policy, tried)], view);
        set(tried);
      }
    } catch (e) {
      waiting.current = [];
      tell({ text: (e as Error).message, bad: true });
    } finally {
      running.current = false;
    }
  };
  return (step: Step) => {
    waiting.current.push(step);
    void run();
  };
}
