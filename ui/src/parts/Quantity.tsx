import { useState } from 'react';

/** A quantity that is changed where it is shown. Empty counts as 0; anything above `most` is cut to it. */
export function Quantity({
  value,
  most,
  set,
  label,
  enter,
  disabled,
}: {
  value: number;
  most: number;
  set: (n: number) => void;
  label: string;
  enter?: () => void;
  disabled?: boolean;
}) {
  const [draft, setDraft] = useState<string>(); // what is being typed, which may be nothing yet
  return (
    <input
      className="qty"
      inputMode="numeric"
      aria-label={label}
      title={`At most ${most}`}
      data-set={value > 0}
      value={draft ?? String(value)}
      disabled={disabled}
      onFocus={(e) => e.target.select()}
      onChange={(e) => {
        const t = e.target.value.replace(/\D/g, '').slice(0, 9);
        const n = Math.min(most, Number(t || 0));
        setDraft(t === '' ? '' : String(n));
        set(n);
      }}
      onBlur={() => setDraft(undefined)}
      onKeyDown={(e) => {
        if (e.key === 'Enter' && enter) {
          e.preventDefault();
          enter();
        }
        if (e.key === 'Escape') e.currentTarget.blur();
      }}
    />
  );
}
