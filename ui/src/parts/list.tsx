import { useNavigate, useSearch } from '@tanstack/react-router';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useRef, useState, type ReactNode } from 'react';
import { useKey } from '../base/keys/useKey';
import type { ListSearch } from '../base/search';
import { plural, showNum } from '../base/format';
import { Key } from './bits';

/** What the list shows, kept in the address of the page. Changing anything but the page goes back to the first. */
export function useList(): [ListSearch, (patch: Partial<ListSearch>) => void, (all: ListSearch) => void] {
  const search: ListSearch = useSearch({ strict: false });
  const go = useNavigate();
  return [
    search,
    // Onto what the address says now, not what was drawn last: two fields may be filled before either is drawn.
    (patch) =>
      void go({ to: '.', search: ((now: ListSearch) => ({ ...now, page: undefined, ...patch })) as never, replace: true }),
    (all) => void go({ to: '.', search: all as never, replace: true }),
  ];
}

export function Find({ label }: { label: string }) {
  const [search, set] = useList();
  const [typed, setTyped] = useState<string>();
  const ref = useRef<HTMLInputElement>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useKey('f', 'Filter this list', () => ref.current?.focus());
  return (
    <span className="relative">
      <input
        ref={ref}
        type="search"
        aria-label={label}
        placeholder={label}
        value={typed ?? search.q ?? ''}
        className="field w-[190px] pr-8"
        onChange={(e) => {
          setTyped(e.target.value);
          clearTimeout(timer.current);
          const q = e.target.value.trim() || undefined;
          timer.current = setTimeout(() => set({ q }), 180);
        }}
        onBlur={() => setTyped(undefined)}
        onKeyDown={(e) => e.key === 'Escape' && ref.current?.blur()}
      />
      <span className="pointer-events-none absolute top-[5px] right-1.5">
        <Key>F</Key>
      </span>
    </span>
  );
}

export function Sortable({ by, children, num }: { by: string; children: ReactNode; num?: boolean }) {
  const [search, set] = useList();
  const on = search.sort === by;
  return (
    <th className={num ? 'num' : undefined} aria-sort={on ? (search.down ? 'descending' : 'ascending') : undefined}>
      <button
        className="inline-flex cursor-pointer items-center gap-0.5 hover:text-ink"
        onClick={() => set({ sort: by, down: on ? !search.down || undefined : undefined })}
      >
        {children}
        {on && (search.down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
      </button>
    </th>
  );
}

export function Choice({ name, options }: { name: keyof ListSearch; options: [string, string][] }) {
  const [search, set] = useList();
  return (
    <>
      {options.map(([value, text]) => (
        <button
          key={value}
          className="pill"
          aria-pressed={(search[name] ?? '') === value}
          onClick={() => set({ [name]: value || undefined })}
        >
          {text}
        </button>
      ))}
    </>
  );
}

/** How many rows were found: of very many it is only said that there are more. */
export const found = (of: { total: number; more?: boolean }, one: string) =>
  of.more ? `more than ${showNum(of.total)} ${one}s` : plural(of.total, one);

export function Pager({
  page,
  pages,
  total,
  what,
  more,
}: {
  page: number;
  pages: number;
  total: number;
  what: string;
  more?: boolean;
}) {
  const [, set] = useList();
  if (pages <= 1) return null;
  return (
    <div className="flex items-center gap-3 py-3 text-mute">
      <button className="act" disabled={page <= 1} onClick={() => set({ page: page - 1 })}>
        Previous
      </button>
      <span>
        Page {showNum(page)} of {more && 'more than '}
        {showNum(pages)}, {more && 'more than '}
        {showNum(total)} {what}
      </span>
      <button className="act" disabled={page >= pages && !more} onClick={() => set({ page: page + 1 })}>
        Next
      </button>
    </div>
  );
}
