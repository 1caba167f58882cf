import { locale } from './locale';
import { nouns, type Noun } from './nouns';

const day = new Intl.DateTimeFormat(locale, { weekday: 'short', day: 'numeric', month: 'short', timeZone: 'UTC' });
const date = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', timeZone: 'UTC' });
const dayYear = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });
/** Ways to write a time, by the time zone in which it is written. */
const clocks = new Map<string, { full: Intl.DateTimeFormat; hours: Intl.DateTimeFormat }>();
let home: string | undefined;

/** From now on times are written in the time zone of the firm. */
export function setZone(zone: string | undefined) {
  home = zone || undefined;
}

/** Whether the day has twice twelve hours, of which none is written with a nought before it. */
const twelve = new Intl.DateTimeFormat(locale, { hour: 'numeric' }).resolvedOptions().hour12;

function clockOf(zone = home) {
  let found = clocks.get(zone ?? '');
  if (!found) {
    const hour = { hour: twelve ? 'numeric' : '2-digit', minute: '2-digit', timeZone: zone } as const;
    found = {
      full: new Intl.DateTimeFormat(locale, { weekday: 'short', day: 'numeric', month: 'short', ...hour }),
      hours: new Intl.DateTimeFormat(locale, hour),
    };
    clocks.set(zone ?? '', found);
  }
  return found;
}

const units = new Intl.NumberFormat(locale);

/** 2027-03-02 as Tue 2 Mar, with the year if it is another one. */
export function showDay(iso: string): string {
  if (!iso) return '';
  const d = new Date(`${iso}T00:00:00Z`);
  return Math.abs(d.getTime() - Date.now()) > 300 * 864e5 ? dayYear.format(d) : day.format(d).replace(',', '');
}

/** 2027-03-02 as 2 Mar, where there is little room. */
export function showDate(iso: string): string {
  return iso ? date.format(new Date(`${iso}T00:00:00Z`)) : '';
}

/** A moment, in the time zone of the firm: Tue 2 Mar 14:32. */
export function showTime(iso: string): string {
  return iso ? clockOf().full.format(new Date(iso)).replace(/,/g, '') : '';
}

/** The time of the day, as 14:32; in the time zone of the firm unless another is named. */
export const showClock = (at: number, zone?: string) => clockOf(zone).hours.format(new Date(at));

export function showNum(n: number): string {
  return units.format(n);
}

const money = new Map<string, { of: Intl.NumberFormat; bare: Intl.NumberFormat; minor: number }>();

/** How a currency is written, and how many minor units one of it has (ISO 4217, as Intl knows it). */
function moneyOf(currency: string) {
  let found = money.get(currency);
  if (!found) {
    const of = new Intl.NumberFormat(locale, { style: 'currency', currency });
    const places = of.resolvedOptions().maximumFractionDigits ?? 2;
    const bare = new Intl.NumberFormat(locale, { minimumFractionDigits: places, maximumFractionDigits: places });
    found = { of, bare, minor: 10 ** places };
    money.set(currency, found);
  }
  return found;
}

/** An amount of minor units with its currency; nothing without one. */
export function showMoney(minor: number, currency: string): string {
  if (!currency) return '';
  const { of, minor: one } = moneyOf(currency);
  return of.format(minor / one);
}

let sums = 'GBP';

/** From now on sums are written in the currency of the firm. */
export function setSums(currency: string | undefined) {
  if (currency) sums = currency;
}

/** A sum of minor units in the currency of the firm. */
export const showSum = (minor: number) => showMoney(minor, sums);

/** An amount whose currency stands elsewhere. */
export function showAmount(minor: number, currency: string): string {
  const { bare, minor: one } = moneyOf(currency || sums);
  return bare.format(minor / one);
}

/** A share in hundredths of a per cent, to a tenth of one. */
export function showShare(bp: number): string {
  return share.format(bp / 10_000);
}
const share = new Intl.NumberFormat(locale, { style: 'percent', minimumFractionDigits: 1, maximumFractionDigits: 1 });

export function showKg(g: number): string {
  const kg = g / 1000;
  return `${units.format(kg >= 100 ? Math.round(kg) : Math.round(kg * 10) / 10)} kg`;
}

/** How far one walks, from centimetres: 180 m, 2.4 km. */
export function showWalk(cm: number): string {
  return cm < 100_000 ? `${units.format(Math.round(cm / 100))} m` : `${units.format(Math.round(cm / 10_000) / 10)} km`;
}

/** How long it takes, from seconds: 14 min, 1 h 5 min. */
export function showSpan(seconds: number): string {
  const minutes = Math.ceil(seconds / 60);
  return minutes < 60 ? `${minutes} min` : `${units.format(Math.floor(minutes / 60))} h ${minutes % 60} min`;
}

/** How much room it takes, from cubic centimetres: 0.3 m³. */
export function showVolume(cm3: number): string {
  const litres = cm3 / 1000;
  return litres < 100 ? `${units.format(Math.round(litres * 10) / 10)} l` : `${units.format(Math.round(litres / 10) / 100)} m³`;
}

/** So many things: 1 order, 3 orders. */
export const plural = (n: number, noun: Noun): string => nouns[noun](n);
