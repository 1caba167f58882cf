import { plural, showTime } from '../base/format';

interface Asked {
  asked?: string;
  asked_times?: number;
  asked_note?: string;
}

/** The carrier is being asked about a shipment, and what has been in the way so far. */
export function Asking({ of }: { of: Asked }) {
  return (
    <span
      role="status"
      className="inline-block max-w-[290px] whitespace-normal"
      title={of.asked && `asked since ${showTime(of.asked)}`}
    >
      <span aria-hidden className="loading loading-dots loading-xs mr-1 align-middle" />
      asking the carrier
      {of.asked_note && (
        <span className="late block">
          {of.asked_note}; tried {plural(of.asked_times ?? 0, 'time')}, trying again
        </span>
      )}
    </span>
  );
}
