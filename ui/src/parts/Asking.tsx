import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
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
      title={of.asked && t`asked since ${showTime(of.asked)}`}
    >
      <span aria-hidden className="loading loading-dots loading-xs mr-1 align-middle" />
      {t`asking the carrier`}
      {of.asked_note && (
        <span className="late block">
          <Trans>
            {of.asked_note}; tried {plural(of.asked_times ?? 0, 'time')}, trying again
          </Trans>
        </span>
      )}
    </span>
  );
}
