import { t } from '@lingui/core/macro';
import { useEffect, useRef, type ReactNode } from 'react';
import { KeyLayer } from '../base/keys/useKey';

/** A question that stands before everything else until it is answered or closed. */
export function Dialog({
  title,
  close,
  children,
  wide,
}: {
  title: string;
  close: () => void;
  children: ReactNode;
  wide?: boolean | 'more';
}) {
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const d = ref.current;
    const before = document.activeElement;
    if (d && !d.open) {
      d.showModal();
      // The browser would focus whatever can be focused first; a person wants the first field.
      d.querySelector<HTMLElement>('input, select, textarea, button')?.focus();
    }
    return () => {
      d?.close();
      if (before instanceof HTMLElement && before.isConnected) before.focus({ preventScroll: true });
    };
  }, []);
  return (
    <dialog
      ref={ref}
      aria-label={title}
      onCancel={(e) => {
        e.preventDefault();
        close();
      }}
      onMouseDown={(e) => e.target === ref.current && close()}
      className={
        'm-auto outline-none rounded-box border border-line bg-card p-0 text-ink shadow-2xl backdrop:bg-black/30 ' +
        (wide === 'more' ? 'w-[880px]' : wide ? 'w-[640px]' : 'w-[440px]')
      }
    >
      <KeyLayer>
        <div className="p-5">
          <h2 className="mb-3 text-head">{title}</h2>
          {children}
        </div>
      </KeyLayer>
    </dialog>
  );
}

/** Asks why, before a command that needs a reason. */
export function ReasonDialog({
  title,
  label,
  verb,
  suggestions,
  close,
  go,
}: {
  title: string;
  label: string;
  verb: string;
  suggestions: string[];
  close: () => void;
  go: (reason: string) => void;
}) {
  const ref = useRef<HTMLInputElement>(null);
  return (
    <Dialog title={title} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const text = ref.current?.value.trim() ?? '';
          if (text) go(text);
        }}
      >
        <label className="block">
          <span className="text-mute">{label}</span>
          <input ref={ref} className="input input-sm mt-1 w-full" list="reasons" required maxLength={500} autoFocus />
        </label>
        <datalist id="reasons">
          {suggestions.map((s) => (
            <option key={s} value={s} />
          ))}
        </datalist>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button type="submit" className="btn btn-sm btn-primary">
            {verb}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
