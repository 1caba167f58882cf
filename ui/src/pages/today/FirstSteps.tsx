import { Link } from '@tanstack/react-router';
import { Check, Circle } from 'lucide-react';
import type { ReactNode } from 'react';
import type { Schemas } from '../../api/call';

/** What somebody does first with an empty book; what is done is ticked, and when a shipment has left it is no longer shown. */
export function FirstSteps({ begun }: { begun: Schemas['Begun'] }) {
  return (
    <details className="alert note-box mt-4 max-w-[760px]" open>
      <summary className="cursor-pointer font-head text-lead font-semibold">First steps</summary>
      <ol className="mt-2 space-y-2">
        <Step done={begun.items} title="Bring in items, stock and customers">
          <Link to="/import" className="ref">
            Import files
          </Link>{' '}
          of your own, or the sample files that are offered there. Warehouses, their days and cut-offs are in the{' '}
          <Link to="/settings" className="ref">
            settings
          </Link>
          .
        </Step>
        <Step done={begun.orders} title="Enter the first order">
          <Link to="/entry" className="ref">
            New order
          </Link>
          : choose a customer, add items; beside each line stands what is free and when the rest can come. Orders can be imported,
          too.
        </Step>
        <Step done={begun.left} title="Send the first shipment">
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
        </Step>
      </ol>
    </details>
  );
}

function Step({ done, title, children }: { done: boolean; title: string; children: ReactNode }) {
  return (
    <li className="flex gap-3">
      <span className={done ? 'text-info' : 'text-mute'}>
        {done ? <Check size={16} aria-label="Done" /> : <Circle size={16} aria-label="To do" />}
      </span>
      <span>
        <b>{title}</b>
        <span className="block text-mute">{children}</span>
      </span>
    </li>
  );
}
