import { useId, useState, type CSSProperties, type KeyboardEvent } from 'react';
import { Input, TextField } from 'react-aria-components';
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
    <TextField
      className="relative inline-block"
      aria-label={label}
      aria-describedby={why ? id : undefined}
      isInvalid={why !== undefined}
      validationBehavior="aria"
      isDisabled={disabled}
      autoFocus={autoFocus}
      inputMode="numeric"
      value={typed ?? (value === undefined ? '' : String(value))}
      onChange={(text) => {
        setTyped(text);
        const read = readWhole(text, most);
        set(text.trim() === '' ? undefined : read.n, read.why);
      }}
      onBlur={() => setTyped(why === undefined ? undefined : typed)}
    >
      <Input
        className={className}
        style={style}
        data-set={marked}
        placeholder={placeholder}
        onFocus={(e) => e.target.select()}
        onKeyDown={onKeyDown}
      />
      <Refusal id={id} why={why} />
    </TextField>
  );
}
