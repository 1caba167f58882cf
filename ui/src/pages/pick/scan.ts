import { t } from '@lingui/core/macro';
import type { Schemas } from '../../api/call';
import { showNum } from '../../base/format';
import { bears, lotOf } from '../../base/gs1';

export type Task = Schemas['TaskView'];

/** What is scanned or typed next. */
export type Step = 'bin' | 'item' | 'lot' | 'quantity';

/** Where a picker is: at a row of the list, at a step of it. */
export interface At {
  /** The row; the first that is left if absent. */
  task?: number;
  step: Step;
  /** The bin from which it is taken, if it is another than the row says. */
  from?: string;
  /** What was scanned of the item. */
  item?: string;
  /** The lot that was read off the units, of an item that is kept by lots. */
  lot?: string;
  /** Rows that are left for later. */
  skipped: number[];
}

export const begin: At = { step: 'bin', skipped: [] };

/** What came of a scan: it was right or wrong, said in a sentence; or so many units were picked, or fewer than are asked for. */
export type Heard =
  { kind: 'right' | 'wrong'; text: string } | { kind: 'picked' | 'fewer'; qty: number } | { kind: 'of lot'; qty: number };

const same = (a: string, b: string) => a.toLowerCase() === b.toLowerCase();

/** Rows that are left, those that were skipped last. */
export function left(tasks: Task[], skipped: number[]): Task[] {
  const due = tasks.filter((x) => x.due > 0);
  return [...due.filter((x) => !skipped.includes(x.id)), ...due.filter((x) => skipped.includes(x.id))];
}

/** The row at which the picker is; none if nothing is left. */
export function current(tasks: Task[], at: At): Task | undefined {
  const rows = left(tasks, at.skipped);
  return rows.find((x) => x.id === at.task) ?? rows[0];
}

/** The lot of which the units can only be, unless they come from another bin. */
const onlyLot = (task: Task, at: At) => (at.from === undefined ? task.lot : undefined);

/** How many of a row can be of the lot that was read, as far as that is noted of its bin. */
export function ofLot(task: Task, at: At): number {
  const noted = at.from === undefined ? task.lots.find((l) => same(l.lot, at.lot ?? '')) : undefined;
  return noted ? Math.min(task.due, noted.qty) : task.due;
}

/** The bin at which the picker should be. */
export const binOf = (task: Task, at: At) => at.from ?? task.bin;

/**
 * Takes in what was scanned or typed, ended by Enter: at first the bin, then the item, its lot if that has to be noted, then how many;
 * nothing stands for all that are asked for, or that there are of the lot.
 */
export function scan(tasks: Task[], at: At, text: string): { at: At; heard: Heard } {
  const task = current(tasks, at);
  const code = text.trim();
  const stay = (kind: 'right' | 'wrong', said: string) => ({ at, heard: { kind, text: said } });
  if (!task) return stay('wrong', t`Nothing is left to pick on this list.`);
  const go = (next: Partial<At>, said: string) => ({
    at: { ...at, task: task.id, ...next },
    heard: { kind: 'right' as const, text: said },
  });
  const isItem = (x: Task) => bears(x, code);
  if (at.step === 'bin') {
    const bin = binOf(task, at);
    if (code === '') return stay('wrong', bin ? t`Scan bin ${bin}.` : t`No bin is set: scan the bin in which you found it.`);
    if (bin === '')
      return go({ step: 'item', from: code.toUpperCase() }, t`${code.toUpperCase()} will be its bin. Now the item.`);
    if (same(code, bin)) return go({ step: 'item' }, t`${bin}, right bin. Now the item.`);
    const other = left(tasks, at.skipped).find((x) => same(code, x.bin));
    if (other) {
      return {
        at: { ...at, task: other.id, step: 'item', from: undefined },
        heard: { kind: 'right', text: t`${other.bin} is row ${other.row}, out of turn. Now the item.` },
      };
    }
    const spare = task.others.find((o) => same(code, o.bin));
    if (spare)
      return go({ step: 'item', from: spare.bin }, t`${spare.bin} holds ${showNum(spare.qty)} of it, too. Now the item.`);
    if (isItem(task)) return stay('wrong', t`That is the item. Scan bin ${bin} first.`);
    return stay('wrong', t`${code} is wrong. Go to bin ${bin}.`);
  }
  if (at.step === 'item') {
    if (code === '') return stay('wrong', t`Scan the item: ${task.sku}.`);
    if (same(code, binOf(task, at))) return stay('right', t`You are at ${binOf(task, at)}. Now the item.`);
    const gs1 = lotOf(code);
    if (isItem(task)) {
      if (task.by_lots && !onlyLot(task, at)) {
        if (gs1?.lot) return readLot(task, { ...at, task: task.id, item: task.sku }, gs1.lot);
        return go({ step: 'lot', item: code }, t`${task.sku}, right item. Now its lot.`);
      }
      return go(
        { step: 'quantity', item: gs1 ? task.sku : code },
        t`${task.sku}, right item. Enter takes all ${showNum(task.due)}.`,
      );
    }
    return stay('wrong', t`${code} is wrong. Put it back and take ${task.sku}.`);
  }
  if (at.step === 'lot') {
    if (code === '') return stay('wrong', t`Scan or type the lot that stands on it.`);
    if (isItem(task)) return stay('wrong', t`That is the item. Scan or type its lot.`);
    return readLot(task, at, lotOf(code)?.lot ?? code);
  }
  if (code === '') {
    const qty = ofLot(task, at);
    return { at, heard: { kind: qty < task.due ? 'of lot' : 'picked', qty } };
  }
  if (isItem(task)) return stay('right', t`Type how many, or press Enter for all ${showNum(task.due)}.`);
  if (!/^\d{1,7}$/.test(code)) return stay('wrong', t`${code} is not a number. Type how many you took.`);
  const qty = Number(code);
  if (qty > task.due) return stay('wrong', t`${showNum(task.due)} are asked for, not ${showNum(qty)}.`);
  return { at, heard: { kind: qty < task.due ? 'fewer' : 'picked', qty } };
}

/** Takes in the lot that stands on the units. */
function readLot(task: Task, at: At, code: string): { at: At; heard: Heard } {
  const lot = code.toUpperCase();
  const noted = at.from === undefined ? task.lots.find((l) => same(l.lot, lot)) : undefined;
  if (noted?.stop)
    return { at: { ...at, step: 'lot' }, heard: { kind: 'wrong', text: t`Lot ${lot} must not be sent. Take another one.` } };
  const next: At = { ...at, task: task.id, step: 'quantity', lot };
  const qty = ofLot(task, next);
  const text =
    qty < task.due
      ? t`Lot ${lot}: ${showNum(qty)} are here. Enter takes them, the rest is of another lot.`
      : t`Lot ${lot}. Enter takes all ${showNum(task.due)}.`;
  return { at: next, heard: { kind: 'right', text } };
}

/** What is known of a pick that has not been sent yet. */
export interface Pick {
  task: number;
  qty: number;
  cause?: string;
  later?: boolean;
  short?: number;
}

/** The rows as they are once what waits to be sent has been recorded. */
export function after(tasks: Task[], picks: Pick[]): Task[] {
  return tasks.map((task) => {
    let { due, picked, short } = task;
    for (const p of picks) {
      if (p.task !== task.id || due === 0) continue;
      const qty = Math.min(p.qty, due);
      picked += qty;
      if (p.later) {
        due -= qty + (p.short ?? 0);
        short += p.short ?? 0;
      } else {
        short += due - qty;
        due = 0;
      }
    }
    return due === task.due ? task : { ...task, due, picked, short };
  });
}

/** A unit of measure for so many: 12 tubs, 1 tub, 30 each. */
export const unitOf = (unit: string, n: number) =>
  n === 1 || unit === 'each' || unit.endsWith('s') ? unit : `${unit}${/(x|ch|sh)$/.test(unit) ? 'es' : 's'}`;
