import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showNum, showTime } from '../../base/format';
import { Load } from '../../parts/states';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { unitOf } from './scan';
import { sound } from '../../base/sound';
import { useQueue } from './useQueue';

type Count = Schemas['CountView'];

/** Bins in which fewer were found than they should hold: counted one after another, by scanning the bin and typing how many. */
export function CountsPage() {
  const { queue, list } = useQueue();
  const counts = useQuery({ queryKey: ['counts'], queryFn: ({ signal }) => ask(client.GET('/api/counts', { signal })) });
  const [at, setAt] = useState<number>();
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const sent = list.flatMap((q) => (q.path === '/api/count' ? [(q.ask as { count: number }).count] : []));
  const waits = (counts.data ?? []).filter((c) => !sent.includes(c.id));
  const now = waits.find((c) => c.id === at);
  const say = (kind: 'right' | 'wrong', text: string) => {
    setHeard({ kind, text });
    sound(kind === 'right');
  };
  const take = (text: string) => {
    const code = text.trim();
    if (!counts.data) return say('wrong', t`The list is not there yet. Scan again in a moment.`);
    if (!now) {
      const found = waits.find((c) => c.bin.toLowerCase() === code.toLowerCase());
      if (!found) return say('wrong', t`Bin ${code} is not to be counted.`);
      setAt(found.id);
      return say('right', t`${found.bin}, right bin. Count all of ${found.sku} in it.`);
    }
    if (!/^\d{1,9}$/.test(code)) return say('wrong', t`${code} is not a number. Type how many lie in the bin.`);
    queue.put(
      '/api/count',
      { count: now.id, counted: Number(code) },
      t`${showNum(Number(code))} of ${now.sku} counted in ${now.bin}`,
    );
    setAt(undefined);
    say('right', t`${now.bin}: ${showNum(Number(code))} counted.`);
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
          <p className="text-head text-mute">{t`How many ${unitOf(now.unit, 2)} lie there, with those that cannot be sold?`}</p>
        </section>
      )}
      <ScanField label={now ? t`Type how many…` : t`Scan a bin, or choose one…`} take={take} />
      <Heard of={heard} />
      <Load of={counts}>
        {() =>
          waits.length === 0 ? (
            <p className="pt-6 text-center text-head text-mute">{t`No bin is to be counted.`}</p>
          ) : (
            <section aria-label={t`To be counted`} className="pt-4">
              {waits.map((c) => (
                <CountRow key={c.id} of={c} now={c.id === at} choose={() => setAt(c.id)} />
              ))}
            </section>
          )
        }
      </Load>
    </FloorFrame>
  );
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
