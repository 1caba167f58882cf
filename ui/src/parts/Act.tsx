import { useId, type ReactNode } from 'react';
import { ariaOf, parse, show } from '../base/keys/binding';
import { useKey } from '../base/keys/useKey';
import { Key } from './bits';

interface ActProps {
  /** By which it is pressed, too: “a”, “shift+a”. */
  keys: string;
  /** What it does, as it is listed behind “?”. */
  does: string;
  run: () => void;
  /** Why it cannot be pressed now; it is said beside it. Empty or absent: it can. */
  why?: string;
  /** It cannot be pressed, for a reason that everybody sees: nothing is chosen, or it is under way. */
  off?: boolean;
  /** The one thing to do next; or one beside it, in the tray. */
  look?: 'main' | 'quiet';
  typing?: boolean;
  children: ReactNode;
}

/** A button that can also be pressed by a key, and that says why it cannot be pressed. */
export function Act({ keys, does, run, why = '', off = false, look, typing, children }: ActProps) {
  const id = useId();
  const can = why === '' && !off;
  useKey(keys, does, run, { enabled: can, typing });
  const all = parse(keys);
  return (
    <span className="inline-flex items-center gap-2">
      {why && (
        <span id={id} className="text-small opacity-80">
          {why}
        </span>
      )}
      <button
        type="button"
        className={`btn btn-sm ${look === 'main' ? 'btn-primary' : look === 'quiet' ? 'btn-quiet' : ''}`}
        aria-keyshortcuts={ariaOf(all)}
        aria-describedby={why ? id : undefined}
        disabled={!can}
        onClick={run}
      >
        {children} {all[0] && <Key>{show(all[0])}</Key>}
      </button>
    </span>
  );
}
