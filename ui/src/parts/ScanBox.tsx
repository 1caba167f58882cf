import { t } from '@lingui/core/macro';
import { useRef, useState } from 'react';
import { ask, client, type Schemas } from '../api/call';
import { useKey } from '../base/keys/useKey';
import { say } from '../base/say';
import { sound } from '../base/sound';
import { Key } from './bits';

export type Scanned = Schemas['ScanView'];

/**
 * A field for a scanner, which types a code and then presses Enter. What nothing may be done with is said loudly: who stopped it, when,
 * why, and where to bring the goods.
 */
export function ScanBox({ label, found }: { label: string; found: (s: Scanned) => void }) {
  const ref = useRef<HTMLInputElement>(null);
  const [text, setText] = useState('');
  const [wrong, setWrong] = useState<string>();
  useKey('s', label, () => ref.current?.focus());
  const stop = (why: string) => {
    setWrong(why);
    sound(false);
  };
  const take = async (code: string) => {
    setWrong(undefined);
    try {
      const s = await ask(client.GET('/api/scan/{number}', { params: { path: { number: code } } }));
      const refused = say(s.refused);
      if (refused) return stop(refused);
      sound(true);
      found(s);
    } catch (e) {
      stop(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <div className="mb-2 flex items-start gap-3">
      <span className="relative inline-flex shrink-0 items-center">
        <input
          ref={ref}
          className="input input-sm w-[230px] pr-8"
          aria-label={label}
          placeholder={label}
          autoComplete="off"
          spellCheck={false}
          maxLength={60}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Escape') ref.current?.blur();
            if (e.key !== 'Enter') return;
            e.preventDefault();
            const code = text.trim();
            setText('');
            if (code) void take(code);
          }}
        />
        <span className="pointer-events-none absolute right-1.5 flex">
          <Key>S</Key>
        </span>
      </span>
      {wrong && (
        <p role="alert" className="floor-box floor-stop flex-1">
          <span aria-hidden>■</span> <b className="sr-only">{t`Stop:`}</b> {wrong}{' '}
          <button className="btn btn-xs btn-pill ml-2" onClick={() => setWrong(undefined)}>
            {t`I have read it`}
          </button>
        </p>
      )}
    </div>
  );
}
