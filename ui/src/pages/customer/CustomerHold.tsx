import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useState } from 'react';
import type { AskOf, Schemas } from '../../api/call';
import { plural } from '../../base/format';
import { useSigned } from '../../base/session';
import { Act } from '../../parts/Act';
import { Dialog } from '../../parts/Dialog';
import { HoldBox } from '../../parts/HoldBox';
import { useCommand } from '../../parts/useCommand';

type Customer = Schemas['CustomerPage'];
type Kind = AskOf<'/api/hold-customer'>['kind'];

/** The hold on a customer with what lifts it, or what places one. */
export function CustomerHold({ of: c }: { of: Customer }) {
  const { may } = useSigned();
  const lift = useCommand('/api/lift-customer');
  const [asked, setAsked] = useState(false);
  const h = c.held;
  if (!h) {
    return (
      <div className="mb-3 flex gap-2">
        <Act
          keys="h"
          does={t`Put the customer on hold`}
          why={may('hold') ? '' : t`Holds are placed by sales or a coordinator.`}
          run={() => setAsked(true)}
        >
          {t`Hold all its orders…`}
        </Act>
        {asked && <HoldDialog of={c} close={() => setAsked(false)} />}
      </div>
    );
  }
  const onTheFloor = c.at.released + c.at.picked + c.at.packed;
  return (
    <HoldBox of={h} lift={() => lift.run({ ask: { customer: c.code } })} busy={lift.busy}>
      <span className="block text-mute">
        <Trans>Each of its orders is on hold, also those to come. An order can be let through on its own page.</Trans>{' '}
        {onTheFloor > 0 && (
          <b className="late">
            <Trans>On the floor: {plural(onTheFloor, 'unit')}, which may be picked and packed, and will not leave.</Trans>
          </b>
        )}
      </span>
    </HoldBox>
  );
}

/** Asks why a customer is on hold, and who is to lift it. */
function HoldDialog({ of: c, close }: { of: Customer; close: () => void }) {
  const hold = useCommand('/api/hold-customer', close);
  const [kind, setKind] = useState<Kind>('credit');
  const [note, setNote] = useState('');
  const kinds: [Kind, string][] = [
    ['credit', t`Credit: a manager lifts it`],
    ['coordinator', t`Our own: a coordinator lifts it`],
  ];
  return (
    <Dialog title={t`Hold all orders of ${c.name}?`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (note.trim()) hold.run({ ask: { customer: c.code, kind, note: note.trim() } });
        }}
      >
        <p className="text-mute">
          <Trans>
            {plural(c.open_orders, 'order')} will neither be released nor leave, and neither will what comes in while the hold
            stands.
          </Trans>
        </p>
        <fieldset className="mt-3 space-y-1">
          <legend className="sr-only">{t`What for`}</legend>
          {kinds.map(([k, text]) => (
            <label key={k} className="flex items-center gap-2">
              <input type="radio" name="kind" className="radio radio-sm" checked={kind === k} onChange={() => setKind(k)} />
              {text}
            </label>
          ))}
        </fieldset>
        <label className="mt-3 block">
          <span className="text-mute">{t`Why? Everybody who sees one of its orders sees this.`}</span>
          <input
            className="input input-sm mt-1 w-full"
            maxLength={500}
            value={note}
            onChange={(e) => setNote(e.target.value)}
            autoFocus
          />
        </label>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={!note.trim() || hold.busy}>
            {t`Hold them`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
