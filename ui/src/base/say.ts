import { i18n } from '@lingui/core';
import type { Schemas } from '../api/call';
import { locale } from './locale';
import { showClock, showDay, showMoney } from './format';

/** Something that the server says: the code of a pattern, what stands in it, and all of it in English. */
export type Said = Schemas['Said'];

/** The language of the interface, and how numbers are written in it. */
i18n.load('en', {});
i18n.activate('en', locale);

/** From now on what the server says is made of these patterns, by their codes. */
export const speak = (patterns: Parameters<typeof i18n.load>[1]) => i18n.load('en', patterns);

/** Makes the sentence, with days, times and amounts as the locale writes them. A code that is in no catalogue is said as the server says it. */
export function say(said: Said | undefined): string {
  if (!said) return '';
  if (!said.code || !(said.code in i18n.messages)) return said.text;
  return i18n._(said.code, Object.fromEntries((said.params ?? []).map((p, i) => [i, shown(p)])));
}

/** What the page says in place of the server. */
export const inPlace = (text: string): Said => ({ code: '', text });

function shown(p: Schemas['Param']): string | number {
  if (p.said) return say(p.said);
  if (p.list) return p.list.map(say).join(p.between ?? ', ');
  if (p.day) return showDay(p.day);
  if (p.at) return showClock(Date.parse(p.at));
  if (p.minor !== undefined) return showMoney(p.minor, p.currency ?? '');
  return p.number ?? p.text ?? '';
}
