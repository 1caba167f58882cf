import { t } from '@lingui/core/macro';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import type { ReactNode } from 'react';
import { useFolded } from '../base/folded';
import { useKey } from '../base/keys/useKey';

/** A page: the working list in the middle, the lookaside at the right, the tray beneath. */
export function Page({
  children,
  aside,
  tray,
  fill,
}: {
  children: ReactNode;
  aside?: ReactNode;
  tray?: ReactNode;
  /** The list takes the height that there is, and scrolls by itself. */
  fill?: boolean;
}) {
  const [folded, flip] = useFolded();
  useKey('.', folded ? t`Open the lookaside` : t`Fold the lookaside away`, flip, { enabled: aside !== undefined });
  const columns =
    aside === undefined ? 'grid-cols-1' : folded ? 'grid-cols-[minmax(0,1fr)_26px]' : 'grid-cols-[minmax(0,1fr)_316px]';
  return (
    <div className={`grid h-full grid-rows-[minmax(0,1fr)_auto] ${columns}`}>
      <main
        id="page"
        aria-labelledby="page-title"
        className={`min-w-0 px-5 pt-3 pb-4 outline-none ${fill ? 'flex flex-col overflow-hidden' : 'overflow-auto'}`}
        tabIndex={-1}
      >
        {children}
      </main>
      {aside !== undefined && (
        <aside
          aria-label={t`Lookaside`}
          className={`relative border-l border-line bg-card ${folded ? '' : 'overflow-y-auto px-4 py-3'}`}
        >
          <button
            className="absolute top-2 right-1 cursor-pointer p-0.5 text-mute hover:text-ink"
            aria-label={folded ? t`Open the lookaside` : t`Fold the lookaside away`}
            aria-expanded={!folded}
            aria-keyshortcuts="."
            title={`${folded ? t`Open` : t`Fold away`} (.)`}
            onClick={flip}
          >
            {folded ? <ChevronLeft size={15} aria-hidden /> : <ChevronRight size={15} aria-hidden />}
          </button>
          {!folded && aside}
        </aside>
      )}
      {tray && (
        <section
          aria-label={t`Tray`}
          className="col-span-full flex h-[52px] items-center gap-6 bg-neutral px-5 text-neutral-content"
        >
          {tray}
        </section>
      )}
    </div>
  );
}
