import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import {
  useId,
  useLayoutEffect,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
  type ReactNode,
  type RefObject,
} from 'react';
import { useSought } from './useSought';

/**
 * A field in which something is found by part of a number or name. Shows what was chosen;
 * typing looks for another. Enter or Tab takes the hit that is marked.
 */
export function Combo<T>({
  label,
  chosen,
  find,
  findKey,
  idOf,
  row,
  choose,
  placeholder,
  className,
  width,
  start,
  input,
  stay,
  seek,
  otherKey,
  paste,
  disabled,
  at: where,
  listWidth = 380,
}: {
  label: string;
  chosen: string;
  find: (q: string) => Promise<T[]>;
  findKey: string;
  idOf: (hit: T) => string;
  row: (hit: T) => ReactNode;
  choose: (id: string) => void;
  seek?: (q: string) => void; // Enter came before the hits, or there are none: the caller finds it while the typing goes on elsewhere
  placeholder?: string;
  className: string;
  width?: number;
  start?: boolean;
  input?: RefObject<HTMLInputElement | null>;
  stay?: boolean; // keep the focus after a choice: the caller moves it
  otherKey?: (e: KeyboardEvent) => void; // keys that mean nothing while nothing is being looked for
  paste?: (e: ClipboardEvent) => void;
  disabled?: boolean;
  at?: string; // names the field for whoever moves the cursor
  listWidth?: number;
}) {
  const [typed, setTyped] = useState<string>();
  const [at, setAt] = useState(0);
  const id = useId();
  const own = useRef<HTMLInputElement>(null);
  const ref = input ?? own;
  const [sought, setSought] = useState<string>(); // Enter was pressed before the hits were there, and the typing may go on elsewhere
  const q = (typed ?? '').trim();
  const found = useQuery({
    queryKey: ['search', findKey, q],
    queryFn: () => find(q),
    enabled: q !== '',
    staleTime: 5000,
    placeholderData: (before) => before,
  });
  const hits = q === '' ? [] : (found.data ?? []);
  const [above, setAbove] = useState(false); // the list goes up where there is no room for it below
  useLayoutEffect(() => {
    if (q !== '' && ref.current) setAbove(isTight(ref.current));
  }, [q, ref]);
  useLayoutEffect(() => document.getElementById(`${id}-${at}`)?.scrollIntoView({ block: 'nearest' }), [id, at]);
  const fresh = !found.isPlaceholderData && found.data !== undefined;
  const pick = (number: string) => {
    setTyped(undefined);
    choose(number);
    if (!stay) ref.current?.blur();
  };
  useSought(sought, findKey, find, (first) => {
    setSought(undefined);
    if (first === undefined) setTyped(sought);
    // Not within the effect: the caller renders at once, to take the cursor on.
    else queueMicrotask(() => choose(idOf(first)));
  });
  return (
    <span className={`relative ${width ? 'inline-block' : 'block'}`}>
      <input
        ref={ref}
        role="combobox"
        aria-label={label}
        aria-expanded={hits.length > 0}
        aria-controls={id}
        aria-activedescendant={hits.length > 0 ? `${id}-${at}` : undefined}
        aria-autocomplete="list"
        autoComplete="off"
        autoFocus={start}
        disabled={disabled}
        data-at={where}
        className={className}
        style={width ? { width } : undefined}
        placeholder={placeholder}
        value={typed ?? sought ?? chosen}
        title={typed ?? sought ?? chosen}
        onFocus={(e) => {
          const field = e.target;
          field.select();
          requestAnimationFrame(() => (field.scrollLeft = 0)); // its beginning says what it is
        }}
        onPaste={paste}
        onChange={(e) => {
          setSought(undefined);
          setTyped(e.target.value);
          setAt(0);
        }}
        onBlur={() => {
          if (q === '' && typed !== undefined) choose('');
          setTyped(undefined);
        }}
        onKeyDown={(e) => {
          const hit = hits[at];
          if (typed === undefined || q === '') {
            if (e.key === 'Escape' && !otherKey) ref.current?.blur();
            else otherKey?.(e);
            return;
          }
          if (e.key === 'ArrowDown') setAt((n) => Math.min(hits.length - 1, n + 1));
          else if (e.key === 'ArrowUp') setAt((n) => Math.max(0, n - 1));
          else if ((e.key === 'Enter' || e.key === 'Tab') && !e.ctrlKey && at === 0 && (!fresh || hit === undefined)) {
            setTyped(undefined);
            if (seek) seek(q);
            else {
              setSought(q);
              if (!stay) ref.current?.blur();
            }
          } else if ((e.key === 'Enter' || e.key === 'Tab') && !e.ctrlKey && hit !== undefined) pick(idOf(hit));
          else if (e.key === 'Escape') setTyped(undefined);
          else return;
          const moved = ![e.currentTarget, document.body].includes(document.activeElement as HTMLElement);
          if (e.key !== 'Tab' || stay || moved) e.preventDefault(); // Tab goes no further than the caller went
          e.stopPropagation();
        }}
      />
      {q !== '' && (
        <ul
          id={id}
          role="listbox"
          aria-label={t`${label}: what was found`}
          style={{ width: listWidth }}
          className={
            `${above ? 'bottom-full' : 'top-full'} ` +
            'absolute left-0 z-30 my-1 max-h-[280px] overflow-y-auto rounded-box border border-line bg-card p-1 ' +
            'text-left font-sans text-row font-normal shadow-lg'
          }
        >
          {hits.map((h, i) => (
            <li
              key={idOf(h)}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === at}
              className="flex h-7 cursor-pointer items-center gap-3 rounded-[5px] px-2 aria-selected:bg-focus-ground"
              onMouseDown={(e) => {
                e.preventDefault();
                pick(idOf(h));
              }}
            >
              {row(h)}
            </li>
          ))}
          {found.isError && <li className="late px-2 py-1">{found.error.message}</li>}
          {fresh && hits.length === 0 && (
            <li className="px-2 py-1 text-mute">
              <Trans>Nothing has “{q}” in its number or name.</Trans>
            </li>
          )}
        </ul>
      )}
    </span>
  );
}

/** How high a list is at most, with what is around it. */
const highest = 292;

/** Whether less than a whole list has room below a field, and more above it, in what scrolls around it. */
function isTight(field: HTMLElement): boolean {
  let around: HTMLElement | null = field.parentElement;
  while (around && !/auto|scroll/.test(getComputedStyle(around).overflowY)) around = around.parentElement;
  const box = (around ?? document.documentElement).getBoundingClientRect();
  const at = field.getBoundingClientRect();
  const below = Math.min(box.bottom, innerHeight) - at.bottom;
  return below < highest && at.top - Math.max(box.top, 0) > below;
}
