import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';

export type Draft = Schemas['Draft'];
export type Line = Schemas['DraftLine'];
export type View = Schemas['DraftView'];
export type LineView = Schemas['DraftLineView'];

/** What was typed for an item or a customer, until it is found. */
export interface Sought {
  sought?: string;
  unfound?: string; // that nothing was found for it, as a sentence
}

export const unfound = (what: string, text: string) => t`No ${what} is called “${text}”`;

/** A line that is being typed: it may have no item yet. `key` stays with it while lines come and go. */
export interface Typed extends Line, Sought {
  key: number;
}

let keys = 0;
export const newLine = (l?: Partial<Line>): Typed => ({ sku: '', qty: 0, ...l, key: ++keys });

const kept = 'entry-draft';

/** A new order that was begun and not entered is still there when one comes back. */
export function keptDraft(): Draft | undefined {
  try {
    const d = JSON.parse(localStorage.getItem(kept) ?? '') as Draft;
    return Array.isArray(d.lines) ? d : undefined;
  } catch {
    return undefined;
  }
}

export function keepDraft(d: Draft | undefined) {
  if (d && (d.customer || d.lines?.length)) localStorage.setItem(kept, JSON.stringify(d));
  else localStorage.removeItem(kept);
}

/** Whether the line has something in it that the server can be asked about. */
export const isFilled = (l: Typed) => l.sought === undefined && (l.sku !== '' || l.qty > 0);

/** Whether nothing at all was typed in the line. */
export const isBlank = (l: Typed) => l.sought === undefined && !isFilled(l);

/** The lines that have something in them, as the server is asked about them. */
export const asked = (head: Draft, lines: Typed[]): Draft => ({
  ...head,
  lines: lines.filter(isFilled).map((l) => {
    const line: Partial<Typed> & Line = { ...l };
    delete line.key;
    delete line.sought;
    delete line.unfound;
    return line;
  }),
});

/** What the draft comes to, and whether that is the answer to what stands there now. */
export function useAnswer(draft: Draft) {
  const text = JSON.stringify(draft);
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), 70);
    return () => clearTimeout(timer);
  }, [text]);
  const answer = useQuery({
    queryKey: ['draft', settled],
    queryFn: ({ signal }) => ask(client.POST('/api/draft', { body: JSON.parse(settled) as Draft, signal })),
    placeholderData: (before) => before,
  });
  // An answer that could not be had anew stands: the server refuses what it no longer fits.
  const fresh = settled === text && answer.data !== undefined && !answer.isPlaceholderData;
  return { view: answer.data, error: answer.error, fresh };
}

/** What is entered: something new, or a change of an order or quote, or a quote that becomes an order. */
export type Mode = { kind: 'new' } | { kind: 'order' | 'quote' | 'accept'; number: string };
