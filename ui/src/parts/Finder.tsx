import type { RefObject } from 'react';
import { ask, client } from '../api/call';
import { Combo } from './Combo';

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
      find={async (q) => (await ask(client.GET('/api/search', { params: { query: { q } } }))).filter((h) => h.kind === kind)}
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
