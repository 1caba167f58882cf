import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showNum, showTime } from '../../base/format';
import { Load } from '../../parts/states';
import { count, type CountAt } from './count';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { unitOf } from './scan';
import { sound } from '../../base/sound';
import { useQueue } from './useQueue';

type Count = Schemas['CountView'];

/** Bins in which fewer were found than they should hold: counted one after another, by scanning the bin and typing how many. */
export function CountsPage() {
  const { queue, list } = useQueue();
  const counts = useQuery({ queryKey: ['counts'], queryFn: ({ signal }) => ask(client.GET('/api/counts', { signal })) });
  const [at, setAt] = useState<CountAt>();
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const sent = list.flatMap((q) => (q.path === '/api/count' ? [(q.ask as { count: number }).count] : []));
  const waits = (counts.data ?? []).filter((c) => !sent.includes(c.id));
  const now = waits.find((c) => c.id === at?.count);
  const say = (kind: 'right' | 'wrong', text: string) => {
    setHeard({ kind, text });
    sound(kind === 'right');
  };
  const take = (text: string) => {
    if (!counts.data) return say('wrong', t`The list is not there yet. Scan again in a moment.`);
    const step = count(waits, now && at, text);
    if (step.done) {
      const { of, qty, lots } = step.done;
      queue.put(
        '/api/count',
        { count: of.id, counted: qty, lots: lots.length > 0 ? lots : undefined },
        t`${showNum(qty)} of ${of.sku} counted in ${of.bin}`,
      );
    }
    setAt(step.at);
    say(step.heard.kind, step.heard.text);
  };
  return (
    <FloorFrame
      title={t`Counts`}
      sub={counts.data && plural(waits.length, 'bin')}
      foot={
        <Link to="/pick" className="btn btn-quiet">
          {t`Lists`}
        </Link>
      }
    >
      <Unsent />
      {now && (
        <section aria-label={t`Bin ${now.bin}`} className="floor-now mb-2">
          <b className="text-huge">{now.bin}</b>
          <p className="text-large">
            <b>{now.sku}</b> {now.item}
          </p>
          {now.by_lots && (
            <p className="text-head">
              {at?.lots.map((l) => `${l.lot} (${showNum(l.qty)})`).join(', ') || t`Counted lot by lot.`}
            </p>
          )}
          <p className="text-head text-mute">{t`How many ${unitOf(now.unit, 2)} lie there, with those that cannot be sold?`}</p>
        </section>
      )}
      <ScanField label={labelOf(now, at)} take={take} />
      <Heard of={heard} />
      <Load of={counts}>
        {() =>
          waits.length === 0 ? (
            <p className="pt-6 text-center text-head text-mute">{t`No bin is to be counted.`}</p>
          ) : (
            <section aria-label={t`To be counted`} className="pt-4">
              {waits.map((c) => (
                <CountRow key={c.id} of={c} now={c.id === at?.count} choose={() => setAt({ count: c.id, lots: [] })} />
              ))}
            </section>
          )
        }
      </Load>
    </FloorFrame>
  );
}

/** What is scanned or typed next. */
function labelOf(now: Count | undefined, at: CountAt | undefined): string {
  if (!now) return t`Scan a bin, or choose one…`;
  if (!now.by_lots || at?.lot !== undefined) return t`Type how many…`;
  return at?.lots.length ? t`The next lot, or Enter if that is all…` : t`Scan or type the first lot…`;
}

function CountRow({ of: c, now, choose }: { of: Count; now: boolean; choose: () => void }) {
  return (
    <button className="floor-box floor-choice mb-2" aria-pressed={now} onClick={choose}>
      <span className="flex items-baseline gap-3">
        <b className="text-large">{c.bin}</b>
        <span>{c.warehouse}</span>
        <span className="ml-auto">
          {c.sku} <span className="text-mute max-[500px]:hidden">{c.item}</span>
        </span>
      </span>
      <span className="block text-mute">
        <Trans>
          {c.who} found fewer, {showTime(c.at)}
        </Trans>
      </span>
    </button>
  );
}
