import { useQuery } from '@tanstack/react-query';
import { useId, useRef, useState } from 'react';
import { ask, client } from '../api/call';

/**
 * A word of a sentence that is found by part of a number or name. Shows what was chosen;
 * typing looks for another.
 */
export function Finder({
  kind,
  label,
  chosen,
  choose,
  placeholder,
  width,
  start,
}: {
  kind: 'item' | 'customer';
  label: string;
  chosen: string;
  choose: (number: string) => void;
  placeholder: string;
  width: number;
  start?: boolean;
}) {
  const [typed, setTyped] = useState<string>();
  const [at, setAt] = useState(0);
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  const q = (typed ?? '').trim();
  const found = useQuery({
    queryKey: ['search', kind, q],
    queryFn: async () => (await ask(client.GET('/api/search', { params: { query: { q } } }))).filter((h) => h.kind === kind),
    enabled: q !== '',
    placeholderData: (before) => before,
  });
  const hits = q === '' ? [] : (found.data ?? []);
  const pick = (number: string) => {
    setTyped(undefined);
    choose(number);
    input.current?.blur();
  };
  return (
    <span className="relative inline-block">
      <input
        ref={input}
        role="combobox"
        aria-label={label}
        aria-expanded={hits.length > 0}
        aria-controls={id}
        aria-activedescendant={hits.length > 0 ? `${id}-${at}` : undefined}
        aria-autocomplete="list"
        autoComplete="off"
        autoFocus={start}
        className="word"
        style={{ width }}
        placeholder={placeholder}
        value={typed ?? chosen}
        title={typed === undefined ? chosen : undefined}
        onFocus={(e) => e.target.select()}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onBlur={() => {
          if (q === '' && typed !== undefined) choose('');
          setTyped(undefined);
        }}
        onKeyDown={(e) => {
          const hit = hits[at];
          if (e.key === 'ArrowDown') setAt((n) => Math.min(hits.length - 1, n + 1));
          else if (e.key === 'ArrowUp') setAt((n) => Math.max(0, n - 1));
          else if ((e.key === 'Enter' || e.key === 'Tab') && hit && typed !== undefined) pick(hit.number);
          else if (e.key === 'Escape') {
            if (typed === undefined) input.current?.blur();
            setTyped(undefined);
          } else return;
          if (e.key !== 'Tab') e.preventDefault();
          e.stopPropagation();
        }}
      />
      {q !== '' && (
        <ul
          id={id}
          role="listbox"
          aria-label={`${label}: what was found`}
          className="absolute top-full left-0 z-30 mt-1 max-h-[280px] w-[380px] overflow-y-auto rounded-box border border-line bg-card p-1 font-sans text-[13px] font-normal shadow-lg"
        >
          {hits.map((h, i) => (
            <li
              key={h.number}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === at}
              className="flex h-7 cursor-pointer items-center gap-3 rounded-[5px] px-2 aria-selected:bg-focus-ground"
              onMouseDown={(e) => {
                e.preventDefault();
                pick(h.number);
              }}
            >
              <span className="w-28 shrink-0 truncate font-semibold">{h.number}</span>
              <span className="truncate text-mute">{h.text}</span>
            </li>
          ))}
          {found.data && hits.length === 0 && <li className="px-2 py-1 text-mute">Nothing has “{q}” in its number or name.</li>}
        </ul>
      )}
    </span>
  );
}
