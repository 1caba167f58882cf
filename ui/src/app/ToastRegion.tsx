import { t } from '@lingui/core/macro';
import { RotateCcw, X } from 'lucide-react';
import {
  Text,
  UNSTABLE_Toast as Notice,
  UNSTABLE_ToastContent as Content,
  UNSTABLE_ToastRegion as Region,
  type UNSTABLE_ToastQueue as Queue,
} from 'react-aria-components';
import type { Shown, Toast } from '../base/toasts';
import { DocumentLink, Key } from '../parts/bits';
import { plural } from '../base/format';
import { useProgress } from '../parts/useProgress';

/** What was told, the newest at the bottom. It stays while the pointer or the focus is on it; F6 goes there. */
export function ToastRegion({ queue, undo, last }: { queue: Queue<Toast>; undo: (toast: Shown) => void; last?: string }) {
  return (
    <Region
      queue={queue}
      aria-label={t`What was done`}
      className="fixed right-4 bottom-16 z-[60] flex w-[380px] max-w-[calc(100vw-32px)] flex-col-reverse gap-2 outline-none"
    >
      {({ toast: shown }) => {
        const toast = shown.content;
        return (
          <Notice
            toast={shown}
            className={'rounded-box border bg-card p-3 shadow-lg outline-focus ' + (toast.bad ? 'border-late' : 'border-line')}
          >
            <div className="flex items-start gap-2">
              <Content className="flex-1">
                <Text slot="title">
                  {toast.bad && <span className="late">{toast.stale ? t`Refused. ` : t`Failed. `}</span>}
                  {toast.working ? <StepOf progress={toast.working.key} otherwise={toast.text} /> : toast.text}{' '}
                  {toast.documents?.map((d) => (
                    <span key={d.number} className="mr-2 inline-block">
                      <DocumentLink kind={d.kind} number={d.number} />
                    </span>
                  ))}
                </Text>
              </Content>
              {!toast.working && (
                <button aria-label={t`Close`} className="cursor-pointer text-mute" onClick={() => queue.close(shown.key)}>
                  <X size={14} />
                </button>
              )}
            </div>
            {toast.working && <Working of={toast.working} />}
            {toast.undo !== undefined && (
              <button className="btn btn-sm mt-2" onClick={() => undo(shown)}>
                <RotateCcw size={13} aria-hidden /> {t`Undo`} {shown.key === last && <Key>U</Key>}
              </button>
            )}
          </Notice>
        );
      }}
    </Region>
  );
}

/** What a long command is at. */
function StepOf({ progress, otherwise }: { progress: string; otherwise: string }) {
  const p = useProgress(progress);
  return (
    <>
      {p?.step ?? otherwise}
      {p && p.total > 0 && ` · ${plural(p.total, 'line')}`}…
    </>
  );
}

function Working({ of: { stop } }: { of: NonNullable<Toast['working']> }) {
  return (
    <div className="mt-2 flex items-center gap-3">
      <progress className="progress flex-1" aria-label={t`Progress`} />
      <button className="btn btn-sm" onClick={stop}>
        {t`Cancel`}
      </button>
    </div>
  );
}
