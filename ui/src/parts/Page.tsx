import type { ReactNode } from 'react';

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
  return (
    <div
      className={`grid h-full grid-rows-[minmax(0,1fr)_auto] ${aside === undefined ? 'grid-cols-1' : 'grid-cols-[minmax(0,1fr)_316px]'}`}
    >
      <main
        id="page"
        aria-labelledby="page-title"
        className={`min-w-0 px-5 pt-3 pb-4 outline-none ${fill ? 'flex flex-col overflow-hidden' : 'overflow-auto'}`}
        tabIndex={-1}
      >
        {children}
      </main>
      {aside !== undefined && (
        <aside aria-label="Lookaside" className="overflow-y-auto border-l border-line bg-card px-4 py-3">
          {aside}
        </aside>
      )}
      {tray && (
        <section
          aria-label="Tray"
          className="col-span-full flex h-[52px] items-center gap-6 bg-neutral px-5 text-neutral-content"
        >
          {tray}
        </section>
      )}
    </div>
  );
}
