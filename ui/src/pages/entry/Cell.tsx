import { useState, type KeyboardEvent } from 'react';

/** A number in a row that is typed over where it stands. Text that is none leaves it as it was. */
export function Cell({
  label,
  value,
  read,
  show,
  set,
  keys,
  disabled,
  wrong,
  empty,
  at,
}: {
  label: string;
  value: number | undefined;
  read: (text: string) => number | undefined;
  show: (n: number) => string;
  set: (n: number | undefined) => void;
  keys: (e: KeyboardEvent<HTMLInputElement>) => void;
  disabled?: boolean;
  wrong?: boolean;
  empty?: boolean; // nothing typed stands for “as it is by default”
  at: string;
}) {
  const [typed, setTyped] = useState<string>();
  return (
    <input
      className="cell num"
      inputMode="decimal"
      aria-label={label}
      aria-invalid={wrong}
      data-at={at}
      disabled={disabled}
      value={typed ?? (value === undefined ? '' : show(value))}
      onFocus={(e) => e.target.select()}
      onChange={(e) => {
        const text = e.target.value;
        const n = read(text);
        setTyped(text);
        if (n !== undefined) set(n);
        else if (text.trim() === '') set(empty ? undefined : 0);
      }}
      onBlur={() => setTyped(undefined)}
      onKeyDown={keys}
    />
  );
}
