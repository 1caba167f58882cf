import type { Schemas } from '../api/call';
import { i18n } from './language';
import { showClock, showDay, showMoney } from './format';

/** Something that the server says: a pattern with its code in catalogues, what stands in it, and all of it in English. */
export type Said = Schemas['Said'];

/** Makes the sentence, with days, times and amounts as the locale writes them. */
export function say(said: Said | undefined): string {
  if (!said) return '';
  if (!said.params) return said.code in i18n.messages ? i18n._(said.code) : said.text;
  return i18n._(said.code, Object.fromEntries(said.params.map((p, i) => [i, shown(p)])), { message: said.pattern });
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
