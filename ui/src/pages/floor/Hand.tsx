import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import type { Schemas } from '../../api/call';
import { questions } from '../../base/questions';
import { plural, showTime } from '../../base/format';
import { Dialog } from '../../parts/Dialog';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';

/** Hands a pick list from person to person, or takes it away from whoever has it. */
export function Hand({ list: l, close }: { list: Schemas['ListView']; close: () => void }) {
  const people = useQuery(questions.pickers());
  const hand = useCommand('/api/hand', close);
  return (
    <Dialog title={l.picker ? t`${l.picker} picks ${l.number}. Hand it to…` : t`Hand ${l.number} to…`} close={close}>
      <Load of={people}>
        {(all) => (
          <div className="space-y-2">
            {all
              .filter((p) => p.login !== l.login)
              .map((p) => (
                <button
                  key={p.login}
                  className="btn btn-sm w-full justify-start"
                  disabled={hand.busy}
                  onClick={() => hand.run({ ask: { list: l.number, to: p.login, seen: l.login } })}
                >
                  <b>{p.name}</b>
                  {p.break && <span className="late">{t`on a break since ${showTime(p.break)}`}</span>}
                  <span className="ml-auto text-mute">{p.lists === 0 ? t`has no list` : t`has ${plural(p.lists, 'list')}`}</span>
                </button>
              ))}
            {l.picker && (
              <button
                className="btn btn-sm w-full justify-start"
                disabled={hand.busy}
                onClick={() => hand.run({ ask: { list: l.number, back: true, seen: l.login } })}
              >
                {t`Nobody for now`}
              </button>
            )}
          </div>
        )}
      </Load>
    </Dialog>
  );
}
