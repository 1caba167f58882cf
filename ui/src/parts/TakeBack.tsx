import { t } from '@lingui/core/macro';
import { useCommand } from './useCommand';

/** Takes back what a command did, for as long as that is possible. */
export function TakeBack({ command, what, done }: { command: number; what: string; done?: () => void }) {
  const undo = useCommand('/api/undo', done);
  return (
    <button
      className="btn btn-xs btn-pill"
      aria-label={t`Undo: ${what}`}
      disabled={undo.busy}
      onClick={() => undo.run({ ask: { command } })}
    >
      {t`Undo`}
    </button>
  );
}
