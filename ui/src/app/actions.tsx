import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import { questions } from '../base/questions';
import { showTime } from '../base/format';
import { CloseFoot, Dialog } from '../parts/Dialog';
import { Load } from '../parts/states';
import { TakeBack } from '../parts/TakeBack';
import { say } from '../base/say';

/** What one did last; undo is on offer for as long as nothing else has happened to it. */
export function Actions({ close }: { close: () => void }) {
  const actions = useQuery(questions.actions());
  return (
    <Dialog title={t`What you did last`} close={close} wide>
      <Load of={actions}>
        {(d) =>
          d.length === 0 ? (
            <p className="text-mute">{t`Nothing yet. What you do is listed here, with the way to undo it.`}</p>
          ) : (
            <ol className="max-h-[56vh] space-y-1.5 overflow-y-auto" aria-label={t`What you did last`}>
              {d.map((a) => (
                <li key={a.command} className="flex items-start gap-3">
                  <span className="w-[118px] shrink-0 text-mute">{showTime(a.at)}</span>
                  <span className={`min-w-0 flex-1 ${a.undone ? 'text-mute line-through' : ''}`}>{say(a.text)}</span>
                  {a.undo && <TakeBack command={a.command} what={say(a.text)} />}
                </li>
              ))}
            </ol>
          )
        }
      </Load>
      <CloseFoot close={close} />
    </Dialog>
  );
}
