import { t } from '@lingui/core/macro';
import type { Schemas } from '../api/call';

type State = Schemas['QuoteRow']['state'];

const stateWords: Record<State, string> = {
  open: t`can be accepted`,
  'to approve': t`waits for a manager`,
  expired: 'expired',
  accepted: 'accepted',
  withdrawn: 'withdrawn',
};

export function QuoteState({ q }: { q: Schemas['QuoteRow'] }) {
  const waits = q.state === 'to approve' || q.state === 'expired';
  return (
    <span className={waits ? 'late' : undefined}>
      {stateWords[q.state]}
      {q.part && t`, part is`}
    </span>
  );
}
