import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { plural } from '../../base/format';
import { useSigned } from '../../base/session';
import { useQueue } from './useQueue';

/** A page for one thing at a time: its head, what is on it, and the one thing to do at its foot. */
export function FloorFrame({
  title,
  sub,
  foot,
  children,
}: {
  title: ReactNode;
  sub?: ReactNode;
  foot?: ReactNode;
  children: ReactNode;
}) {
  const { me } = useSigned();
  useEffect(() => {
    document.title = t`${typeof title === 'string' ? title : t`Pick`} · Journeyman`;
  }, [title]);
  return (
    <div className="grid h-full grid-rows-[auto_minmax(0,1fr)_auto]" data-floor="true">
      <header className="flex flex-wrap items-baseline gap-x-3 border-b border-line bg-card px-5 py-2.5 max-[500px]:px-3">
        <h1 id="page-title" className="text-large font-bold">
          {title}
        </h1>
        <span className="text-head text-mute">{sub}</span>
        <span className="ml-auto text-head text-mute max-[500px]:hidden">{me.name}</span>
      </header>
      <main
        id="page"
        aria-labelledby="page-title"
        tabIndex={-1}
        className="overflow-y-auto px-5 py-3 outline-none max-[500px]:px-3"
      >
        <div className="mx-auto max-w-[900px]">{children}</div>
      </main>
      {foot && (
        <footer className="flex items-center gap-4 bg-neutral px-5 py-3 text-head text-neutral-content max-[500px]:px-3">
          {foot}
        </footer>
      )}
    </div>
  );
}

/** What was scanned and has not been answered, and what was refused: loud, until it has been read. */
export function Unsent() {
  const { queue, list, waiting } = useQueue();
  const refused = list.filter((q) => q.refused !== undefined);
  const unsent = list.length - refused.length;
  return (
    <>
      {refused.map((q) => (
        <div key={q.key} role="alert" className="floor-box floor-stop mb-2">
          <p>
            <b>{t`Refused: ${q.what}.`}</b> {q.refused}
          </p>
          <button className="btn btn-sm mt-2" onClick={() => queue.acknowledge(q.key)}>
            {t`I have read it`}
          </button>
        </div>
      ))}
      {waiting && unsent > 0 && (
        <p role="status" className="floor-box mb-2 font-semibold">
          <Trans>No connection. {plural(unsent, 'scan')} kept here; it goes on, and they are sent when it is back.</Trans>
        </p>
      )}
    </>
  );
}

/**
 * The field for a scanner, which types and then presses Enter. It has the focus whenever nothing else is typed in, so that no scan goes
 * astray.
 */
export function ScanField({ label, take, disabled }: { label: string; take: (text: string) => void; disabled?: boolean }) {
  const ref = useRef<HTMLInputElement>(null);
  const [text, setText] = useState('');
  useEffect(() => {
    const field = ref.current;
    field?.focus({ preventScroll: true });
    const back = (e: KeyboardEvent) => {
      const el = e.target as HTMLElement;
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        e.key.length !== 1 ||
        e.key === ' ' ||
        /^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName)
      )
        return;
      field?.focus({ preventScroll: true }); // before the character is typed, which then goes into the field
    };
    // A button that was touched does not keep the focus, nor take it along when it goes: the next scan may be an Enter alone.
    const touched = (e: MouseEvent) => {
      const on = (e.target as HTMLElement).closest('button');
      const now = document.activeElement;
      if (e.detail > 0 && on && (now === on || now === document.body)) field?.focus({ preventScroll: true });
    };
    addEventListener('keydown', back, { capture: true });
    addEventListener('click', touched);
    return () => {
      removeEventListener('keydown', back, { capture: true });
      removeEventListener('click', touched);
    };
  }, []);
  return (
    <input
      ref={ref}
      className="input scan-field w-full"
      aria-label={label}
      placeholder={label}
      autoComplete="off"
      autoCapitalize="characters"
      spellCheck={false}
      enterKeyHint="done"
      disabled={disabled}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        if (e.key !== 'Enter') return;
        e.preventDefault();
        const read = text;
        setText('');
        take(read);
      }}
    />
  );
}

/** What came of the last scan. */
export function Heard({ of: heard }: { of?: { kind: 'right' | 'wrong'; text: string } }) {
  if (!heard) return null;
  const right = heard.kind === 'right';
  return (
    <p role={right ? 'status' : 'alert'} className={`floor-box mt-2 ${right ? 'floor-right' : 'floor-stop'}`}>
      <span aria-hidden>{right ? '✓' : '■'}</span> <b className="sr-only">{right ? t`Right:` : t`Wrong:`}</b> {heard.text}
    </p>
  );
}
