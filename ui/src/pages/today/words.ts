import type { Schemas } from '../../api/call';
import { plural, showClock, showDay, showNum } from '../../base/format';
import { say } from '../../base/say';

export type Todo = Schemas['Todo'];

const verbs: Record<Todo['kind'], string> = {
  delivery: 'Check',
  dispatch: 'Dispatch',
  pack: 'Pack',
  pick: 'Pick',
  release: 'Release',
  hold: 'Decide',
  allocate: 'Allocate',
  keep: 'Re-promise',
  promise: 'Promise',
  arrival: 'Reschedule',
  buy: 'Confirm',
  quote: 'Accept',
};

/** The next step, as its button says it. */
export const stepOf = (t: Todo) => (t.verb === 'approve a quote' ? 'Approve' : verbs[t.kind]);

const units = (t: Todo) => plural(t.units, 'unit');
const lines = (t: Todo, one = 'line') => plural(t.lines ?? 0, one);
const ofWhat = (t: Todo) => (t.sku ? `${showNum(t.units)} of ${t.sku}` : `${units(t)} on ${lines(t)}`);

/** What it is about, beside its number. */
export function matterOf(t: Todo): string {
  switch (t.kind) {
    case 'delivery':
      return 'should have arrived';
    case 'dispatch':
      return 'stands at the dock';
    case 'pack':
      return `${units(t)} picked, not packed`;
    case 'pick':
      return `${units(t)} to pick, ${lines(t)}`;
    case 'release':
      return `${units(t)} allocated on ${lines(t)}`;
    case 'hold':
      return `on hold (${say(t.note)}), ${units(t)}`;
    case 'allocate':
      return `${ofWhat(t)} could have stock`;
    case 'keep':
      return `${showNum(t.units)} of ${t.sku ?? ''} promised ${showDay(t.day)}`;
    case 'promise':
      return `${ofWhat(t)}: no stock, no promise`;
    case 'arrival':
      return `${t.sku ?? ''} overdue`;
    case 'buy':
      return `${units(t)} of ${t.sku ?? ''} requested`;
    case 'quote':
      return t.verb === 'approve a quote' ? 'needs an approval' : 'runs out';
  }
}

/** What is lost by waiting. */
export function lossOf(t: Todo): { text: string; late: boolean } {
  const late = t.missed > 0;
  const days = (n: number) => plural(n, 'day');
  switch (t.kind) {
    case 'keep':
      return {
        text: say(t.note),
        late: true,
      };
    case 'arrival':
      return { text: `${lines(t, 'due line')} ${t.lines === 1 ? 'waits' : 'wait'} for ${showNum(t.units)} of it`, late };
    case 'buy':
      return late
        ? { text: 'comes too late already', late }
        : { text: `comes too late if it is ordered after ${showDay(t.on)}`, late };
    case 'quote':
      return { text: `can be accepted until ${showDay(t.day)}`, late };
    case 'delivery':
      return { text: late ? `${days(t.missed)} overdue` : say(t.note), late: true };
    default: {
      if (t.kind === 'dispatch' && t.note) return { text: say(t.note), late: true };
      return late
        ? { text: `${days(t.missed)} late, ${showNum(t.missed + 1)} after that`, late }
        : { text: `leaves ${showDay(t.next)} after that`, late };
    }
  }
}

/** Until when things have to be done, as a heading says it; and how long that is from now, if it is near. */
export function untilWhen(t: Todo, now: number): { by: string; left: string } {
  const left = Math.max(0, Math.floor((new Date(t.by).getTime() - now) / 60_000));
  const hours = Math.floor(left / 60);
  return {
    by: t.cut_off ? `Before ${showClock(new Date(t.by).getTime(), t.zone)} on ${showDay(t.on)}` : `On ${showDay(t.on)}`,
    left: left >= 600 || !t.cut_off ? '' : hours > 0 ? `in ${hours} h ${left % 60} min` : `in ${left} min`,
  };
}

/** The list, cut where the time by which things have to be done changes. */
export function byTime(todos: readonly Todo[]): Todo[][] {
  const out: Todo[][] = [];
  for (const t of todos) {
    const last = out.at(-1);
    if (last?.[0] && last[0].by === t.by && last[0].cut_off === t.cut_off) last.push(t);
    else out.push([t]);
  }
  return out;
}

const sums: Record<Todo['kind'], [string, string]> = {
  delivery: ['delivery', 'deliveries'],
  dispatch: ['shipment', 'shipments'],
  pack: ['order to pack', 'orders to pack'],
  pick: ['pick list', 'pick lists'],
  release: ['order to release', 'orders to release'],
  hold: ['hold', 'holds'],
  allocate: ['order to allocate', 'orders to allocate'],
  keep: ['broken promise', 'broken promises'],
  promise: ['order to promise', 'orders to promise'],
  arrival: ['overdue receipt', 'overdue receipts'],
  buy: ['request to buy', 'requests to buy'],
  quote: ['quote', 'quotes'],
};

/** What is not listed, in words. */
export const moreOf = (more: readonly { kind: string; n: number }[]) =>
  more.map((m) => plural(m.n, ...(sums[m.kind as Todo['kind']] ?? [m.kind, m.kind]))).join(', ');
