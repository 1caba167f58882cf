import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import type { Schemas } from '../../api/call';
import { plural, showNum } from '../../base/format';
import { questions } from '../../base/questions';
import { Load } from '../../parts/states';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { putBack, putBackAfter, type PutBackAt } from './putback';
import { unitOf } from './scan';
import { sound } from '../../base/sound';
import { useQueue } from './useQueue';

type Task = Schemas['PutBackView'];

/** Recalled units that are to be put back: one after another, by scanning the item and then the bin. */
export function PutBackPage() {
  const { queue, list } = useQueue();
  const tasks = useQuery(questions.putBacks());
  const [at, setAt] = useState<PutBackAt>();
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const sent = list.flatMap((q) =>
    q.path === '/api/put-back' && q.refused === undefined ? [q.ask as { task: number; qty: number }] : [],
  );
  const waits = putBackAfter(tasks.data ?? [], sent);
  const now = waits.find((x) => x.id === at?.task);
  const take = (text: string) => {
    if (!tasks.data) return setHeard({ kind: 'wrong', text: t`The list is not there yet. Scan again in a moment.` });
    const next = putBack(waits, now && at, text);
    if (next.done) {
      const { task, qty, bin, item, lot } = next.done;
      queue.put(
        '/api/put-back',
        { task: task.id, qty, bin, item, seen: task.qty, lots: lot ? [{ lot, qty }] : undefined },
        t`${showNum(qty)} of ${task.sku} put into ${bin}`,
      );
    }
    setAt(next.at);
    setHeard(next.heard);
    sound(next.heard.kind === 'right');
  };
  return (
    <FloorFrame
      title={t`Put back`}
      sub={tasks.data && plural(waits.length, 'task')}
      foot={
        <Link to="/pick" className="btn btn-quiet">
          {t`Lists`}
        </Link>
      }
    >
      <Unsent />
      {now && at && (
        <section aria-label={t`Into bin ${now.bin}`} className="floor-now mb-2">
          <p className="text-head text-mute">{now.bin ? t`Put into bin` : t`No bin is set: put it into any`}</p>
          <b className="text-huge">{now.bin || '–'}</b>
          <p className="text-large">
            <b>{showNum(at.qty)}</b> {unitOf(now.unit, at.qty)} <b>{now.sku}</b> {now.item} {at.lot && <b>{t`lot ${at.lot}`}</b>}
          </p>
          <p className="text-head text-mute">
            <Trans>
              They lie in {now.place}. Type a number if you take fewer than {showNum(now.qty)}, then scan the bin.
            </Trans>
          </p>
        </section>
      )}
      <ScanField
        label={now ? (now.by_lots && !at?.lot ? t`Scan or type its lot…` : t`Scan the bin…`) : t`Scan an item, or choose one…`}
        take={take}
      />
      <Heard of={heard} />
      <Load of={tasks}>
        {() =>
          waits.length === 0 ? (
            <p className="pt-6 text-center text-head text-mute">{t`Nothing is to be put back.`}</p>
          ) : (
            <section aria-label={t`To be put back`} className="pt-4">
              {waits.map((x) => (
                <TaskRow
                  key={x.id}
                  of={x}
                  now={x.id === now?.id}
                  choose={() => {
                    setAt({ task: x.id, qty: x.qty, lot: x.lot });
                    setHeard(undefined);
                  }}
                />
              ))}
            </section>
          )
        }
      </Load>
    </FloorFrame>
  );
}

function TaskRow({ of: x, now, choose }: { of: Task; now: boolean; choose: () => void }) {
  return (
    <button className="floor-box floor-choice mb-2" aria-pressed={now} onClick={choose}>
      <span className="flex items-baseline gap-3">
        <b className="text-large">
          {showNum(x.qty)} {x.sku}
        </b>
        <span className="text-mute max-[500px]:hidden">{x.item}</span>
        <span className="ml-auto whitespace-nowrap">
          {x.warehouse} · {x.place} → <b>{x.bin || t`any bin`}</b>
        </span>
      </span>
      <span className="block text-mute">
        {x.order}
        {x.package && ` · ${t`out of ${x.package}`}`}
        {x.list && ` · ${x.list}`} · {x.who}: {x.why}
      </span>
    </button>
  );
}
