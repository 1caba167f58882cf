import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Refused, wasStopped, type AskOf, type CommandPath, type Outcome } from '../api/call';
import { useToasts } from '../base/toasts';

interface Doing<P extends CommandPath> {
  ask: AskOf<P>;
  reason?: string;
}

/** Carries out a command, says what came of it, offers to take it back, and refreshes what is shown. */
export function useCommand<P extends CommandPath>(path: P, done?: (o: Outcome) => void) {
  const queries = useQueryClient();
  const { tell, carryOut } = useToasts();
  const m = useMutation<Outcome, Error, Doing<P>>({
    mutationFn: ({ ask, reason }) => carryOut(path, ask, reason),
    onSuccess: (o) => {
      tell({ text: o.sentence, documents: o.documents, undo: o.undoable ? o.command : undefined });
      if (!wasStopped(o)) done?.(o);
    },
    onError: (e) => tell({ text: e.message, bad: true, stale: e instanceof Refused && e.status === 409 }),
    onSettled: () => queries.invalidateQueries(),
  });
  return { run: m.mutate, busy: m.isPending };
}
