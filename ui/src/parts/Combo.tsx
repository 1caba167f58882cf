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
import { Input, ListBox, ListBoxItem, Popover, SelectableCollectionContext } from 'react-aria-components';
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
  useLayoutEffect(() => {
    document.getElementById(optionOf(id, at))?.scrollIntoView({ block: 'nearest' });
  }, [id, at]);
  const fresh = !found.isPlaceholderData && found.data !== undefined;
  const pick = (number: string) => {
    setTyped(undefined);
    choose(number);
    if (!stay) leave(ref.current);
  };
  useSought(sought, findKey, find, (first) => {
    setSought(undefined);
    if (first === undefined) setTyped(sought);
    // Not within the effect: the caller renders at once, to take the cursor on.
    else queueMicrotask(() => choose(idOf(first)));
  });
  return (
    <span className={`relative ${width ? 'inline-block' : 'block'}`}>
      <Input
        ref={ref}
        role="combobox"
        aria-label={label}
        aria-expanded={hits.length > 0}
        aria-controls={id}
        aria-activedescendant={hits.length > 0 ? optionOf(id, at) : undefined}
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
            if (e.key === 'Escape' && !otherKey) leave(ref.current);
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
              if (!stay) leave(ref.current);
            }
          } else if ((e.key === 'Enter' || e.key === 'Tab') && !e.ctrlKey && hit !== undefined) pick(idOf(hit));
          else if (e.key === 'Escape') setTyped(undefined);
          else return;
          const moved = ![e.currentTarget, document.body].includes(document.activeElement as HTMLElement);
          if (e.key !== 'Tab' || stay || moved) e.preventDefault(); // Tab goes no further than the caller went
          e.stopPropagation();
        }}
      />
      <Popover
        triggerRef={ref}
        isOpen={q !== '' && (hits.length > 0 || fresh || found.isError)}
        isNonModal
        placement="bottom start"
        offset={4}
        maxHeight={280}
        style={{ width: listWidth }}
        className="overflow-y-auto rounded-box border border-line bg-card p-1 text-row text-ink shadow-lg"
      >
        <SelectableCollectionContext value={inField}>
          <ListBox
            id={id}
            aria-label={t`${label}: what was found`}
            selectionMode="single"
            selectedKeys={[at]}
            onSelectionChange={(keys) => {
              const hit = hits[Number([...keys][0] ?? at)]; // a click on the one that is marked takes the mark away
              if (hit !== undefined) pick(idOf(hit));
            }}
            renderEmptyState={() =>
              found.isError ? (
                <span className="late block px-2 py-1">{found.error.message}</span>
              ) : (
                <span className="block px-2 py-1 text-mute">
                  <Trans>Nothing has “{q}” in its number or name.</Trans>
                </span>
              )
            }
          >
            {hits.map((h, i) => (
              <ListBoxItem
                key={i}
                id={i}
                textValue={idOf(h)}
                className="flex h-7 cursor-pointer items-center gap-3 rounded-[5px] px-2 outline-none aria-selected:bg-focus-ground"
              >
                {row(h)}
              </ListBoxItem>
            ))}
          </ListBox>
        </SelectableCollectionContext>
      </Popover>
    </span>
  );
}

/**
 * The focus goes to what the field stands in, unless the caller has moved it: were it nowhere, the list that closes would give
 * it back to the field.
 */
function leave(field: HTMLElement | null) {
  if (!field || document.activeElement !== field) return;
  (field.closest<HTMLElement>('[role=dialog]') ?? document.getElementById('page'))?.focus({ preventScroll: true });
}

/** The focus stays in the field, whatever is pressed in the list. */
const inField = { shouldUseVirtualFocus: true, disallowTypeAhead: true };

/** Under which name an option of a list stands in the page. */
const optionOf = (list: string, at: number) => `${list}-option-${at}`;
