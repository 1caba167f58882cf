const day = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short', timeZone: 'UTC' });
const date = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' });
const dayYear = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });
const clock = new Intl.DateTimeFormat('en-GB', {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
});
const units = new Intl.NumberFormat('en-GB');

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

export function showTime(iso: string): string {
  return iso ? clock.format(new Date(iso)).replace(/,/g, '') : '';
}

const hours = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });

/** The time of the day, as 14:32. */
export const showClock = (at: number) => hours.format(new Date(at));

export function showNum(n: number): string {
  return units.format(n);
}

export function showMoney(minor: number, currency: string): string {
  return new Intl.NumberFormat('en-GB', { style: 'currency', currency: currency || 'GBP' }).format(minor / 100);
}

/** An amount whose currency stands elsewhere. */
export function showAmount(minor: number): string {
  return (minor / 100).toLocaleString('en-GB', { minimumFractionDigits: 2 });
}

export function showKg(g: number): string {
  const kg = g / 1000;
  return `${units.format(kg >= 100 ? Math.round(kg) : Math.round(kg * 10) / 10)} kg`;
}

export function plural(n: number, one: string, many: string = `${one}s`): string {
  return `${showNum(n)} ${n === 1 ? one : many}`;
}
