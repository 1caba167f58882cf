import { t } from '@lingui/core/macro';
import { lazy, Suspense, useState } from 'react';
import { sought } from './sought';

/** Fetches the code of the frame's dialogs before one is asked for. */
export const fetchDialogs = () => import('./dialogs');
const FindDialog = lazy(() => fetchDialogs().then((m) => ({ default: m.FindDialog })));

/** One palette for everything: any number or name, and every page. What is typed before its code is there is not lost. */
export function Palette({ close }: { close: () => void }) {
  const [words, setWords] = useState('');
  return (
    <Suspense
      fallback={
        <div className="fixed inset-0 z-50 flex bg-black/30 p-4">
          <input
            aria-label={t`Find anything`}
            className="input input-sm m-auto w-[600px]"
            placeholder={sought}
            value={words}
            autoFocus
            onChange={(e) => setWords(e.target.value)}
            onKeyDown={(e) => e.key === 'Escape' && close()}
          />
        </div>
      }
    >
      <FindDialog words={words} setWords={setWords} close={close} />
    </Suspense>
  );
}
