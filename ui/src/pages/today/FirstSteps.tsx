import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link } from '@tanstack/react-router';
import { Check, Circle } from 'lucide-react';
import type { ReactNode } from 'react';
import type { Schemas } from '../../api/call';

/** What somebody does first with an empty book; what is done is ticked, and when a shipment has left it is no longer shown. */
export function FirstSteps({ begun }: { begun: Schemas['Begun'] }) {
  return (
    <details className="alert note-box mt-4 max-w-[760px]" open>
      <summary className="cursor-pointer font-head text-lead font-semibold">{t`First steps`}</summary>
      <ol className="mt-2 space-y-2">
        <Step done={begun.items} title={t`Bring in items, stock and customers`}>
          <Trans>
            <Link to="/import" className="ref">
              Import files
            </Link>{' '}
            of your own, or the sample files that are offered there. Warehouses, their days and cut-offs are in the{' '}
            <Link to="/settings" className="ref">
              settings
            </Link>
            .
          </Trans>
        </Step>
        <Step done={begun.orders} title={t`Enter the first order`}>
          <Trans>
            <Link to="/entry" className="ref">
              New order
            </Link>
            : choose a customer, add items; beside each line stands what is free and when the rest can come. Orders can be
            imported, too.
          </Trans>
        </Step>
        <Step done={begun.left} title={t`Send the first shipment`}>
          <Trans>
            On the order: allocate, then release. The{' '}
            <Link to="/floor" className="ref">
              pick list
            </Link>{' '}
            is confirmed, the units are{' '}
            <Link to="/packing" className="ref">
              packed
            </Link>
            , and the shipment leaves from the{' '}
            <Link to="/dock" className="ref">
              dock
            </Link>
            . Each of these steps appears here when it is due.
          </Trans>
        </Step>
      </ol>
    </details>
  );
}

function Step({ done, title, children }: { done: boolean; title: string; children: ReactNode }) {
  return (
    <li className="flex gap-3">
      <span className={done ? 'text-info' : 'text-mute'}>
        {done ? <Check size={16} aria-label={t`Done`} /> : <Circle size={16} aria-label={t`To do`} />}
      </span>
      <span>
        <b>{title}</b>
        <span className="block text-mute">{children}</span>
      </span>
    </li>
  );
}
