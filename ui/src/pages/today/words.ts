import { t } from '@lingui/core/macro';
import type { Schemas } from '../../api/call';
import { plural, showClock, showDay, showNum } from '../../base/format';
import type { Noun } from '../../base/nouns';
import { say } from '../../base/say';

export type Todo = Schemas['Todo'];

const verbs: Record<Todo['kind'], string> = {
  delivery: t`Check`,
  dispatch: t`Dispatch`,
  pack: t`Pack`,
  pick: t`Pick`,
  short: t`Decide`,
  release: t`Release`,
  hold: t`Decide`,
  allocate: t`Allocate`,
  keep: t`Re-promise`,
  promise: t`Promise`,
  arrival: t`Reschedule`,
  buy: t`Confirm`,
  quote: t`Accept`,
};

/** The next step, as its button says it. */
export function stepOf(todo: Todo): string {
  if (todo.kind === 'short' && todo.chosen.length > 0) return t`Allocate`;
  return todo.verb === 'approve a quote' ? t`Approve` : verbs[todo.kind];
}

const units = (todo: Todo) => plural(todo.units, 'unit');
const lines = (todo: Todo, one: Noun = 'line') => plural(todo.lines ?? 0, one);
const ofWhat = (todo: Todo) => (todo.sku ? t`${showNum(todo.units)} of ${todo.sku}` : t`${units(todo)} on ${lines(todo)}`);

/** What it is about, beside its number. */
export function matterOf(todo: Todo): string {
  switch (todo.kind) {
    case 'delivery':
      return t`should have arrived`;
    case 'dispatch':
      return t`stands at the dock`;
    case 'pack':
      return t`${units(todo)} picked, not packed`;
    case 'pick':
      return t`${units(todo)} to pick, ${lines(todo)}`;
    case 'short':
      return t`${ofWhat(todo)} not found: ${say(todo.note)}`;
    case 'release':
      return t`${units(todo)} allocated on ${lines(todo)}`;
    case 'hold':
      return t`on hold (${say(todo.note)}), ${units(todo)}`;
    case 'allocate':
      return t`${ofWhat(todo)} could have stock`;
    case 'keep':
      return t`${showNum(todo.units)} of ${todo.sku ?? ''} promised ${showDay(todo.day)}`;
    case 'promise':
      return t`${ofWhat(todo)}: no stock, no promise`;
    case 'arrival':
      return t`${todo.sku ?? ''} overdue`;
    case 'buy':
      return t`${units(todo)} of ${todo.sku ?? ''} requested`;
    case 'quote':
      return todo.verb === 'approve a quote' ? t`needs an approval` : t`runs out`;
  }
}

/** What is lost by waiting. */
export function lossOf(todo: Todo): { text: string; late: boolean } {
  const late = todo.missed > 0;
  const days = (n: number) => plural(n, 'day');
  switch (todo.kind) {
    case 'keep':
      return {
        text: say(todo.note),
        late: true,
      };
    case 'arrival':
      return {
        text: t`${lines(todo, 'due line')} ${todo.lines === 1 ? 'waits' : 'wait'} for ${showNum(todo.units)} of it`,
        late,
      };
    case 'buy':
      return late
        ? { text: t`comes too late already`, late }
        : { text: t`comes too late if it is ordered after ${showDay(todo.on)}`, late };
    case 'quote':
      return { text: t`can be accepted until ${showDay(todo.day)}`, late };
    case 'delivery':
      return { text: late ? t`${days(todo.missed)} overdue` : say(todo.note), late: true };
    default: {
      if (todo.kind === 'dispatch' && todo.note) return { text: say(todo.note), late: true };
      return late
        ? { text: t`${days(todo.missed)} late, ${showNum(todo.missed + 1)} after that`, late }
        : { text: t`leaves ${showDay(todo.next)} after that`, late };
    }
  }
}

/** Until when things have to be done, as a heading says it; and how long that is from now, if it is near. */
export function untilWhen(todo: Todo, now: number): { by: string; left: string } {
  const left = Math.max(0, Math.floor((new Date(todo.by).getTime() - now) / 60_000));
  const hours = Math.floor(left / 60);
  return {
    by: todo.cut_off
      ? t`Before ${showClock(new Date(todo.by).getTime(), todo.zone)} on ${showDay(todo.on)}`
      : t`On ${showDay(todo.on)}`,
    left: left >= 600 || !todo.cut_off ? '' : hours > 0 ? t`in ${hours} h ${left % 60} min` : t`in ${left} min`,
  };
}

/** The list, cut where the time by which things have to be done changes. */
export function byTime(todos: readonly Todo[]): Todo[][] {
  const out: Todo[][] = [];
  for (const todo of todos) {
    const last = out.at(-1);
    if (last?.[0] && last[0].by === todo.by && last[0].cut_off === todo.cut_off) last.push(todo);
    else out.push([todo]);
  }
  return out;
}

const sums: Record<Todo['kind'], Noun> = {
  delivery: 'delivery',
  dispatch: 'shipment',
  pack: 'order to pack',
  pick: 'pick list',
  short: 'short pick',
  release: 'order to release',
  hold: 'hold',
  allocate: 'order to allocate',
  keep: 'broken promise',
  promise: 'order to promise',
  arrival: 'overdue receipt',
  buy: 'request to buy',
  quote: 'quote',
};

/** What is not listed, in words. */
export const moreOf = (more: readonly { kind: string; n: number }[]) =>
  more.map((m) => plural(m.n, sums[m.kind as Todo['kind']])).join(', ');
