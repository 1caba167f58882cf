import { useId, useState, type CSSProperties, type KeyboardEvent } from 'react';
import { Refusal } from './Refusal';
import { mostUnits, readWhole } from '../base/whole';

/** A field for a whole number. What is none, or too much, is said beside it and counts as nothing until it is put right. */
export function Whole({
  value,
  most = mostUnits,
  set,
  label,
  className,
  style,
  placeholder,
  marked,
  disabled,
  autoFocus,
  onKeyDown,
}: {
  /** Absent shows an empty field. */
  value: number | undefined;
  most?: number;
  /** Gets no number for an empty field and for what cannot be taken, and why it cannot. */
  set: (n: number | undefined, why?: string) => void;
  label: string;
  className: string;
  style?: CSSProperties;
  placeholder?: string;
  /** It is set by a person. */
  marked?: boolean;
  disabled?: boolean;
  autoFocus?: boolean;
  onKeyDown?: (e: KeyboardEvent<HTMLInputElement>) => void;
}) {
  const id = useId();
  const [typed, setTyped] = useState<string>(); // what is being typed, which may be nothing yet
  const why = typed === undefined ? undefined : readWhole(typed, most).why;
  return (
    <span className="relative inline-block">
      <input
        className={className}
        style={style}
        inputMode="numeric"
        aria-label={label}
        aria-invalid={why !== undefined}
        aria-describedby={why ? id : undefined}
        data-set={marked}
        placeholder={placeholder}
        value={typed ?? (value === undefined ? '' : String(value))}
        disabled={disabled}
        autoFocus={autoFocus}
        onFocus={(e) => e.target.select()}
        onChange={(e) => {
          setTyped(e.target.value);
          const read = readWhole(e.target.value, most);
          set(e.target.value.trim() === '' ? undefined : read.n, read.why);
        }}
        onBlur={() => setTyped(why === undefined ? undefined : typed)}
        onKeyDown={onKeyDown}
      />
      <Refusal id={id} why={why} />
    </span>
  );
}
