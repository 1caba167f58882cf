import { t } from '@lingui/core/macro';
import { CalendarDays } from 'lucide-react';
import { lazy, Suspense, useEffect, useId, useRef, useState } from 'react';
import { Input, TextField } from 'react-aria-components';
import { readDay, shift, writeDay } from '../base/day';
import { Refusal } from './Refusal';
import { useStrip } from './useStrip';

const MonthOf = lazy(() => import('./MonthOf').then((m) => ({ default: m.MonthOf })));

/** How long nothing is typed before what was typed counts. */
const pause = 350;

/**
 * A field for a day: it shows and reads it as the locale writes it, and also takes “fri”, “+3”, “1 dec”; what was understood
 * stands beneath while it is typed. The up and down arrows move it by a day; Alt and the down arrow, or a click, open the calendar.
 */
export function DayField({
  value,
  set,
  label,
  className = 'input input-sm',
  width = 122,
}: {
  /** YYYY-MM-DD; empty for none. */
  value: string;
  set: (day: string) => void;
  label: string;
  className?: string;
  width?: number;
}) {
  const id = useId();
  const field = useRef<HTMLInputElement>(null);
  const [open, setOpen] = useState(false);
  const waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
  const [typed, setTyped] = useState<string>();
  const today = useStrip().data?.today ?? new Date().toISOString().slice(0, 10);
  const read = typed === undefined ? undefined : readDay(typed, today);
  useEffect(() => () => clearTimeout(waiting.current), []);
  const take = (text: string) => {
    clearTimeout(waiting.current);
    const { day } = readDay(text, today);
    if (day !== undefined && day !== value) set(day);
    return day !== undefined;
  };
  const move = (by: number) => {
    setTyped(undefined);
    set(shift(read?.day || value || today, by));
  };
  return (
    <TextField
      className="relative inline-flex items-center"
      aria-label={label}
      aria-describedby={read ? id : undefined}
      isInvalid={read?.why !== undefined}
      validationBehavior="aria"
      autoComplete="off"
      maxLength={40}
      value={typed ?? writeDay(value, today)}
      onChange={(text) => {
        setTyped(text);
        clearTimeout(waiting.current);
        waiting.current = setTimeout(() => take(text), pause);
      }}
      onBlur={() => {
        if (typed !== undefined && take(typed)) setTyped(undefined);
      }}
    >
      <Input
        ref={field}
        className={className}
        style={{ width, paddingRight: 24 }}
        onFocus={(e) => e.target.select()}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown' && e.altKey) {
            e.preventDefault();
            setOpen(true);
          } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
            e.preventDefault();
            move(e.key === 'ArrowUp' ? 1 : -1);
          } else if (e.key === 'Enter' && typed !== undefined) {
            // What is typed counts before the form around it is sent off.
            if (read?.why !== undefined || read?.day !== value) e.preventDefault();
            if (take(typed)) setTyped(undefined);
          } else if (e.key === 'Escape' && typed !== undefined) {
            e.stopPropagation();
            clearTimeout(waiting.current);
            setTyped(undefined);
          }
        }}
      />
      <button
        type="button"
        tabIndex={-1}
        className="absolute right-1 cursor-pointer p-0.5 text-mute hover:text-ink"
        aria-label={t`Open the calendar`}
        aria-expanded={open}
        onClick={() => {
          field.current?.focus(); // where it comes back to
          setOpen(true);
        }}
      >
        <CalendarDays size={14} aria-hidden />
      </button>
      {open && (
        <Suspense>
          <MonthOf
            value={value || today}
            today={today}
            label={label}
            by={field}
            close={() => setOpen(false)}
            set={(day) => {
              clearTimeout(waiting.current);
              setTyped(undefined);
              set(day);
            }}
          />
        </Suspense>
      )}
      {read?.why !== undefined ? (
        <Refusal id={id} why={read.why} />
      ) : (
        read?.day && (
          <span id={id} role="status" className="hint">
            {writeDay(read.day, today)}
          </span>
        )
      )}
    </TextField>
  );
}
