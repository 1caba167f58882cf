import { t } from '@lingui/core/macro';
import { locale } from './locale';

/** What a typed day was read as, or why it is none. Nothing typed is no day. */
export type ReadDay = { day: string; why?: undefined } | { day?: undefined; why: string };

const dayMs = 864e5;
const at = (iso: string) => Date.parse(`${iso}T00:00:00Z`);
const iso = (ms: number) => new Date(ms).toISOString().slice(0, 10);
export const shift = (day: string, by: number) => iso(at(day) + by * dayMs);

const weekdays = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'];
const months = [
  'january',
  'february',
  'march',
  'april',
  'may',
  'june',
  'july',
  'august',
  'september',
  'october',
  'november',
  'december',
];

/** The place of the name that begins so; -1 if none or several do. */
function named(names: string[], text: string): number {
  if (text.length < 2) return -1;
  const found = names.flatMap((n, i) => (n.startsWith(text) ? [i] : []));
  return found.length === 1 ? (found[0] ?? -1) : -1;
}

/** The day of year, month (from 1) and day of the month, if there is one. */
function made(y: number, m: number, d: number): string | undefined {
  const ms = Date.UTC(y, m - 1, d);
  const back = new Date(ms);
  return back.getUTCMonth() === m - 1 && back.getUTCDate() === d && y >= 1900 && y < 2200 ? iso(ms) : undefined;
}

/** Of a day and month without a year the next one. */
function next(today: string, m: number, d: number): string | undefined {
  const y = Number(today.slice(0, 4));
  for (const year of [y, y + 1, y + 2, y + 3, y + 4]) {
    const day = made(year, m, d);
    if (day !== undefined && day >= today) return day;
  }
  return undefined;
}

const yearOf = (text: string) => (text.length === 2 ? 2000 + Number(text) : Number(text));

/** Whether the month is written before the day, as in the United States. */
export function monthFirst(of: string): boolean {
  const parts = new Intl.DateTimeFormat(of, { day: 'numeric', month: 'numeric' }).formatToParts(0).map((p) => p.type);
  return parts.indexOf('month') < parts.indexOf('day');
}

const example = (of: string) => (monthFirst(of) ? '12/24' : '24/12');

/** How a day that follows today is written in a filter: “today”, “today+3”. */
const relative = /^today(?:([+-])(\d{1,4}))?$/;

/** A day of a filter that follows today, in words; nothing if it is another. */
export function fromToday(value: string): string | undefined {
  const m = relative.exec(value);
  if (!m) return undefined;
  const n = m[2] ?? '0';
  if (Number(n) === 0) return t`today`;
  return m[1] === '-' ? t`today − ${n} days` : t`today + ${n} days`;
}

/**
 * Reads a day of a filter: “today”, “+3”, “-7” and “tomorrow” follow today, so that a view that is kept with them is right tomorrow,
 * too; others are as readDay says.
 */
export function readFilterDay(typed: string, today: string): ReadDay {
  const text = typed.trim().toLowerCase().replace(/\s+/g, '').replace('−', '-');
  if (text === 'today' || (relative.test(text) && text.length <= 10)) return { day: text };
  if (text === 'tomorrow') return { day: 'today+1' };
  const by = /^([+-])(\d{1,3})$/.exec(text);
  if (by) return { day: Number(by[2]) ? `today${by[1]}${Number(by[2])}` : 'today' };
  return readDay(typed, today);
}

/**
 * Reads a day as it is typed: as the locale writes it, with or without a year (24/12, 12/24/27), by name (fri: the next one, 1 dec, dec 1),
 * from today (+3, today, tomorrow), by the day of the month (15: the next one), or as 2027-12-24. What is none is refused in words.
 */
export function readDay(typed: string, today: string, of = locale): ReadDay {
  const text = typed.trim().toLowerCase();
  const refuse = (why = t`“${typed.trim()}” is not a day: type ${example(of)}, fri, +3 or 1 dec.`): ReadDay => ({ why });
  const found = (day: string | undefined): ReadDay =>
    day === undefined ? refuse(t`There is no such day: ${typed.trim()}.`) : { day };
  if (text === '') return { day: '' };
  if (text === 'today') return { day: today };
  if (text === 'tomorrow') return { day: shift(today, 1) };
  const by = /^([+-])\s?(\d{1,3})$/.exec(text);
  if (by) return { day: shift(today, Number(by[2]) * (by[1] === '-' ? -1 : 1)) };
  const plain = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})$/.exec(text);
  if (plain) return found(made(Number(plain[1]), Number(plain[2]), Number(plain[3])));
  // A weekday before a date says nothing more.
  if (!/^[a-z0-9\s,./-]+$/.test(text)) return refuse();
  const words = text.match(/[a-z]+|\d+/g) ?? [];
  const first = words[0] ?? '';
  const weekday = named(weekdays, first);
  if (weekday >= 0 && words.length === 1) {
    const days = (weekday - new Date(at(today)).getUTCDay() + 7) % 7 || 7;
    return { day: shift(today, days) };
  }
  const rest = weekday >= 0 && words.length > 1 ? words.slice(1) : words;
  const numbers = rest.filter((w) => /^\d+$/.test(w));
  const names = rest.filter((w) => !/^\d+$/.test(w));
  if (names.length > 1 || numbers.some((n) => n.length > 4)) return refuse();
  if (names.length === 1) {
    const month = named(months, names[0] ?? '') + 1;
    const [day, year] = numbers;
    if (month === 0 || day === undefined || numbers.length > 2 || day.length > 2) return refuse();
    return found(year === undefined ? next(today, month, Number(day)) : made(yearOf(year), month, Number(day)));
  }
  const [a, b, c] = numbers.map(Number);
  if (numbers.length === 1 && a !== undefined && a >= 1 && a <= 31) {
    for (let m = 0; m < 3; m++) {
      const start = new Date(Date.UTC(Number(today.slice(0, 4)), Number(today.slice(5, 7)) - 1 + m, 1));
      const day = made(start.getUTCFullYear(), start.getUTCMonth() + 1, a);
      if (day !== undefined && day >= today) return { day };
    }
    return refuse();
  }
  if (a === undefined || b === undefined || numbers.length > 3) return refuse();
  const [month, day] = monthFirst(of) ? [a, b] : [b, a];
  return found(c === undefined ? next(today, month, day) : made(yearOf(numbers[2] ?? ''), month, day));
}

/** The day as a field shows it, in a form that it reads again: Thu 24 Dec, with the year if that is not the next one. */
export function writeDay(day: string, today: string, of = locale): string {
  if (!day) return '';
  const written = (year?: 'numeric') =>
    new Intl.DateTimeFormat(of, { weekday: 'short', day: 'numeric', month: 'short', year, timeZone: 'UTC' })
      .format(new Date(at(day)))
      .replace(/,/g, '');
  const short = written();
  return readDay(short, today, of).day === day ? short : written('numeric');
}
