import type { ReactNode } from 'react';
import type { Schemas } from '../../api/call';

/** Rows that are alike in something, with what they come to. */
export type Group = Schemas['ListGroup'];

/** What the values of a column are; the server can sort and filter by it. */
export type Kind = 'text' | 'number' | 'money' | 'share' | 'date' | 'moment' | 'weight';

/** The day of what has none: after all others. */
export const noDay = '9999-12-31';

/** A column of a grid: what it is called, and how a row is written in it. */
export interface GridColumn<T> {
  /** As the server knows it, if it does. */
  name: string;
  title: string;
  /** The row's value as a text: what is copied, and measured for the width. */
  text: (row: T) => string;
  cell?: (row: T) => ReactNode;
  /** The same, where it looks otherwise while the focus is on its row. */
  focusCell?: (row: T, focused: boolean) => ReactNode;
  /** It has a field, and why what is typed cannot be taken hangs out of its cell. */
  field?: boolean;
  /** At the right, as numbers are. */
  num?: boolean;
  /** In pixels, where it does not follow from the text; a picture may grow, as it says. */
  width?: number;
  grows?: boolean;
  /** Pixels that stand beside the text, as a mark does, or that it is bolder. */
  beside?: number | ((row: T) => number);
  /** A name may be cut where there is no room; a number never is. */
  cut?: boolean;
  /** Set if the server can sort and filter by it. */
  kind?: Kind;
  /** By which rows that are all there are sorted. */
  by?: (row: T) => string | number;
  /** The rows can be grouped by it; or by what it is then called. */
  group?: boolean | string;
  /** How one of its values is written by which rows are grouped or filtered, if not as it is. */
  named?: (value: string) => string | undefined;
  /** How what it adds up to is written. */
  sum?: (n: number) => string;
  /** Absent until somebody chooses it; or just on a screen that is not wide, or on a small one. */
  aside?: boolean | 'narrow' | 'small';
  /** What it is in a file: other columns of the server. */
  file?: string[];
  hint?: string;
}

/** A filter as the server takes it: a column, how it is compared, and a value. */
export interface Filter {
  column: string;
  op: string;
  value: string;
}

export const ops = ['>=', '<=', '!=', '=', '~'] as const;

export function readFilter(text: string): Filter | undefined {
  const m = /^([a-z_]+)(>=|<=|!=|=|~)(.*)$/s.exec(text);
  return m ? { column: m[1] ?? '', op: m[2] ?? '', value: m[3] ?? '' } : undefined;
}

export const writeFilter = (f: Filter) => f.column + f.op + f.value;

/** A column as it is shown: in its place, as wide as somebody made it. */
export interface Shown<T> {
  column: GridColumn<T>;
  width?: number;
}

/** How wide the screen is: a tablet’s is small. */
export type Screen = 'wide' | 'narrow' | 'small';

/** Reads which columns are shown from the address: “tier,customer:180,value”. Without any, those that a list begins with. */
export function readColumns<T>(text: string | undefined, columns: GridColumn<T>[], screen: Screen = 'wide'): Shown<T>[] {
  const named = (text ?? '').split(',').flatMap((part) => {
    const [name, width] = part.split(':');
    const column = columns.find((c) => c.name === name);
    return column ? [{ column, width: Number(width) > 0 ? Math.max(least, Number(width)) : undefined }] : [];
  });
  return named.length ? named : first(columns, screen).map((column) => ({ column }));
}

/** The columns with which a list begins. */
const first = <T>(columns: GridColumn<T>[], screen: Screen) =>
  columns.filter((c) => !c.aside || (c.aside === 'small' && screen !== 'small') || (c.aside === 'narrow' && screen === 'wide'));

export function writeColumns<T>(shown: Shown<T>[], columns: GridColumn<T>[], screen: Screen = 'wide'): string | undefined {
  const text = shown.map((s) => s.column.name + (s.width ? `:${Math.round(s.width)}` : '')).join(',');
  const unsaid = first(columns, screen)
    .map((c) => c.name)
    .join(',');
  return text === unsaid ? undefined : text;
}

/** A column is at least so many pixels wide. */
export const least = 44;
/** A name is cut to no less than that, and takes no more than that if others want room. */
const leastName = 84;
const mostName = 460;

/** What a column would take, and whether it may be cut. */
export interface Wish {
  width: number;
  cut?: boolean;
  /** Somebody made it that wide. */
  fixed?: boolean;
  /** A picture, which is read the better the larger it is. */
  grows?: boolean;
}

/** A picture grows up to that. */
const mostPicture = 300;

/**
 * Gives columns the width that there is: as much as they want, what is left over to pictures and then to all alike, and where there is too
 * little, names are cut.
 */
export function share(wishes: Wish[], room: number): number[] {
  const widths = wishes.map((w) => (w.fixed ? w.width : Math.min(w.width, w.cut ? mostName : Infinity)));
  const total = widths.reduce((n, w) => n + w, 0);
  const names = wishes.flatMap((w, i) => (w.cut && !w.fixed ? [i] : []));
  if (total <= room) {
    let over = room - total;
    const pictures = wishes.flatMap((w, i) => (w.grows ? [i] : []));
    pictures.forEach((i, k) => {
      const more = Math.max(0, Math.min(over / (pictures.length - k) / 1.5, mostPicture - (widths[i] ?? 0)));
      widths[i] = (widths[i] ?? 0) + more;
      over -= more;
    });
    const rest = wishes.flatMap((w, i) => (w.fixed || w.grows ? [] : [i]));
    rest.forEach((i) => (widths[i] = (widths[i] ?? 0) + over / rest.length));
    return widths.map(Math.floor);
  }
  // What is too much is taken from the widest names first, so that short ones stay whole.
  let over = total - room;
  while (over > 0.5) {
    const can = names.filter((i) => (widths[i] ?? 0) > leastName);
    if (!can.length) break;
    const widest = Math.max(...can.map((i) => widths[i] ?? 0));
    const at = can.filter((i) => (widths[i] ?? 0) > widest - 0.5);
    const next = Math.max(leastName, ...can.filter((i) => !at.includes(i)).map((i) => widths[i] ?? 0));
    const less = Math.min(widest - next || widest - leastName, over / at.length);
    if (less <= 0) break;
    at.forEach((i) => (widths[i] = (widths[i] ?? 0) - less));
    over -= less * at.length;
  }
  return widths.map(Math.floor);
}

/** Rows as a spreadsheet takes them: a tab between values, a line for each row. */
export function tabbed<T>(rows: T[], shown: Shown<T>[]): string {
  const plain = (s: string) => s.replace(/[\t\r\n]+/g, ' ');
  return [shown.map((s) => s.column.title), ...rows.map((r) => shown.map((s) => plain(s.column.text(r))))]
    .map((cells) => cells.join('\t'))
    .join('\n');
}
