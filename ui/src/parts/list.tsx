import { t } from '@lingui/core/macro';
import { useRouter, useSearch } from '@tanstack/react-router';
import { useMemo, useRef, useState } from 'react';
import { useKey } from '../base/keys/useKey';
import type { ListSearch } from '../base/search';
import { plural } from '../base/format';
import type { Noun } from '../base/nouns';
import { Key } from './bits';

/** What the page shows, kept in its address; and what changes some of that, or puts other things in its place. */
export function useList(): [ListSearch, (patch: Partial<ListSearch>) => void, (all: ListSearch) => void] {
  const search: ListSearch = useSearch({ strict: false });
  const router = useRouter();
  return useMemo(() => {
    const { history, options } = router;
    const put = (next: object) => {
      // Who is on the way to another page has its address already: what this one remembers late does not belong there.
      const drawn = router.state.resolvedLocation?.pathname;
      if (drawn !== undefined && drawn !== history.location.pathname) return;
      history.replace(history.location.pathname + options.stringifySearch(next));
    };
    return [
      search,
      // Onto what the address says now, not what was drawn last: two fields may be filled before either is drawn.
      (patch) => put({ ...options.parseSearch(history.location.search), ...patch }),
      put,
    ];
  }, [search, router]);
}

export function Find({ label }: { label: string }) {
  const [search, set] = useList();
  const [typed, setTyped] = useState<string>();
  const ref = useRef<HTMLInputElement>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useKey('f', t`Filter this list`, () => ref.current?.focus());
  return (
    <span className="relative inline-flex items-center">
      <input
        ref={ref}
        type="search"
        aria-label={label}
        placeholder={label}
        value={typed ?? search.q ?? ''}
        className="input input-sm w-[176px] pr-8 placeholder:text-ellipsis"
        onChange={(e) => {
          setTyped(e.target.value);
          clearTimeout(timer.current);
          const q = e.target.value.trim() || undefined;
          timer.current = setTimeout(() => set({ q }), 180);
        }}
        onBlur={() => setTyped(undefined)}
        onKeyDown={(e) => e.key === 'Escape' && ref.current?.blur()}
      />
      <span className="pointer-events-none absolute right-1.5 flex">
        <Key>F</Key>
      </span>
    </span>
  );
}

export function Choice({ name, options }: { name: keyof ListSearch; options: [string, string][] }) {
  const [search, set] = useList();
  return (
    <>
      {options.map(([value, text]) => (
        <button
          key={value}
          className="btn btn-xs btn-pill"
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
export const found = (of: { total: number; more?: boolean }, one: Noun) =>
  of.more ? t`more than ${plural(of.total, one)}` : plural(of.total, one);
