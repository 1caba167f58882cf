import type { RefObject } from 'react';
import { ask, client } from '../api/call';
import { Combo } from './Combo';

/** What of this kind has the text in its number or name. */
export const findKind = (kind: 'item' | 'customer') => async (q: string) =>
  (await ask(client.GET('/api/search', { params: { query: { q } } }))).filter((h) => h.kind === kind);

/** A word of a sentence that is found by part of a number or name. */
export function Finder({
  kind,
  input,
  ...rest
}: {
  kind: 'item' | 'customer';
  label: string;
  chosen: string;
  choose: (number: string) => void;
  seek?: (q: string) => void;
  placeholder: string;
  width: number;
  start?: boolean;
  disabled?: boolean;
  input?: RefObject<HTMLInputElement | null>;
}) {
  return (
    <Combo
      {...rest}
      input={input}
      className="word"
      findKey={kind}
      find={findKind(kind)}
      idOf={(h) => h.number}
      row={(h) => (
        <>
          <span className="w-28 shrink-0 truncate font-semibold">{h.number}</span>
          <span className="truncate text-mute">{h.text}</span>
        </>
      )}
    />
  );
}
