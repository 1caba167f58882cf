import { useId, useState, type KeyboardEvent } from 'react';
import { Refusal } from '../../parts/Refusal';

/** A number in a row that is typed over where it stands. Text that is none counts as nothing, and why is said until it is put right. */
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
  read: (text: string) => { n?: number; why?: string };
  show: (n: number) => string;
  set: (n: number | undefined) => void;
  keys: (e: KeyboardEvent<HTMLInputElement>) => void;
  disabled?: boolean;
  wrong?: boolean;
  empty?: boolean; // nothing typed stands for “as it is by default”
  at: string;
}) {
  const id = useId();
  const [typed, setTyped] = useState<string>();
  const why = typed === undefined || typed.trim() === '' ? undefined : read(typed).why;
  return (
    <span className="relative block">
      <input
        className="cell num"
        inputMode="decimal"
        aria-label={label}
        aria-invalid={wrong || why !== undefined}
        aria-describedby={why ? id : undefined}
        data-at={at}
        disabled={disabled}
        value={typed ?? (value === undefined ? '' : show(value))}
        onFocus={(e) => e.target.select()}
        onChange={(e) => {
          const text = e.target.value;
          setTyped(text);
          set(text.trim() === '' ? (empty ? undefined : 0) : (read(text).n ?? (empty ? undefined : 0)));
        }}
        onBlur={() => setTyped(why === undefined ? undefined : typed)}
        onKeyDown={keys}
      />
      <Refusal id={id} why={why} />
    </span>
  );
}
