import { locale } from './locale';

/** How a locale parts thousands and decimals. */
export interface Marks {
  group: string;
  decimal: string;
}

export function marksOf(of: string): Marks {
  const parts = new Intl.NumberFormat(of).formatToParts(1_234_567.5);
  const mark = (type: string) => plainly(parts.find((p) => p.type === type)?.value ?? '');
  return { group: mark('group'), decimal: mark('decimal') };
}

/** Nobody's keyboard has the apostrophe that some locales write between thousands. */
const plainly = (text: string) => text.replaceAll('’', "'");

const here = marksOf(locale);
const quoted = (mark: string) => mark.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/**
 * Reads a number with at most so many decimals as it is typed, in units of the last of them: 14.20 and 14,2 are 1420 with two.
 * Thousands may be parted as the locale does it. Nothing if it is no such number: it is never turned into another.
 */
export function readDecimal(text: string, digits: number, { group, decimal }: Marks = here): number | undefined {
  let plain = plainly(text.replace(/[\s\u00a0\u202f]/g, ''));
  if (group.trim() && new RegExp(`^\\d{1,3}(${quoted(group)}\\d{3})+(${quoted(decimal)}\\d*)?$`).test(plain)) {
    plain = plain.replaceAll(group, '');
  }
  const m = /^(\d{1,9})(?:[.,](\d*))?$/.exec(plain);
  if (!m || (m[2]?.length ?? 0) > digits) return undefined;
  return Number(m[1]) * 10 ** digits + Number((m[2] ?? '').padEnd(digits, '0'));
}

/** Writes what readDecimal has read, for a field: without marks between thousands. */
export function writeDecimal(n: number, digits: number, { decimal }: Marks = here, least = digits): string {
  const [whole, rest = ''] = (n / 10 ** digits).toFixed(digits).split('.');
  let shown = rest;
  while (shown.length > least && shown.endsWith('0')) shown = shown.slice(0, -1);
  return (whole ?? '') + (shown && decimal + shown);
}
