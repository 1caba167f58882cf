import { Whole } from './Whole';

/** A quantity that is changed where it is shown. Empty counts as 0, and so does what cannot be taken. */
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
  return (
    <Whole
      className="qty"
      label={label}
      value={value}
      most={most}
      set={(n) => set(n ?? 0)}
      marked={value > 0}
      disabled={disabled}
      onKeyDown={(e) => {
        if (e.key === 'Enter' && enter && e.currentTarget.getAttribute('aria-invalid') !== 'true') {
          e.preventDefault();
          enter();
        }
        if (e.key === 'Escape') e.currentTarget.blur();
      }}
    />
  );
}
