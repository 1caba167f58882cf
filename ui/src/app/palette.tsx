import { t } from '@lingui/core/macro';
import { lazy, Suspense, useState } from 'react';
import { Dialog } from '../parts/Dialog';
import { sought } from './sought';

const load = () => import('./found');
const Found = lazy(() => load().then((m) => ({ default: m.Found })));

/** Fetches the palette's code before it is asked for. */
export const fetchPalette = load;

/** One palette for everything: any number or name, and every page. What is typed before its code is there is not lost. */
export function Palette({ close }: { close: () => void }) {
  const [words, setWords] = useState('');
  return (
    <Dialog title={t`Find`} close={close} wide>
      <Suspense
        fallback={
          <input
            aria-label={t`Find anything`}
            className="input input-sm w-full"
            placeholder={sought}
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
        }
      >
        <Found words={words} setWords={setWords} close={close} />
      </Suspense>
    </Dialog>
  );
}
