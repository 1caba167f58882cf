import { t } from '@lingui/core/macro';
import { useLayoutEffect, useRef, type ReactNode } from 'react';
import { Dialog as Aria, Modal, ModalOverlay } from 'react-aria-components';
import { KeyLayer } from '../base/keys/useKey';

/** A question that stands before everything else until it is answered or closed; then the focus goes back to where it was. */
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
  return (
    <ModalOverlay
      isOpen
      isDismissable
      onOpenChange={(open) => !open && close()}
      className="fixed inset-0 z-50 flex overflow-y-auto bg-black/30 p-4"
    >
      <Modal
        className={
          'm-auto max-w-full rounded-box border border-line bg-card text-ink shadow-2xl ' +
          (wide === 'more' ? 'w-[880px]' : wide ? 'w-[640px]' : 'w-[440px]')
        }
      >
        <Aria aria-label={title} className="p-5 outline-none">
          <KeyLayer>
            <FirstField>
              <h2 className="mb-3 text-head">{title}</h2>
              {children}
            </FirstField>
          </KeyLayer>
        </Aria>
      </Modal>
    </ModalOverlay>
  );
}

/** Puts the cursor into the first field, where nothing within asks for it itself; without any, on the first button. */
function FirstField({ children }: { children: ReactNode }) {
  const ref = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    const all = ref.current;
    if (!all || all.contains(document.activeElement)) return;
    (all.querySelector<HTMLElement>('input, select, textarea') ?? all.querySelector<HTMLElement>('button'))?.focus();
  }, []);
  return <div ref={ref}>{children}</div>;
}

/** The end of a dialog that only shows something. */
export function CloseFoot({ close }: { close: () => void }) {
  return (
    <div className="mt-4 text-right">
      <button className="btn btn-sm" onClick={close} autoFocus>
        {t`Close`}
      </button>
    </div>
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
