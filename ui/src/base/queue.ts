import { command, Refused, type AskOf, type CommandPath } from '../api/call';

/** A command that waits to be sent, or that was refused when it was. */
export interface Queued<P extends CommandPath = CommandPath> {
  /** Its key: sent twice, it is done once. */
  key: string;
  path: P;
  ask: AskOf<P>;
  /** What it does, in few words, for whoever reads that it was refused. */
  what: string;
  /** Why it was refused. */
  refused?: string;
}

/** Where a queue is kept: as long as the browser has it, a reload loses nothing. */
interface Kept {
  getItem: (name: string) => string | null;
  setItem: (name: string, value: string) => void;
}

interface Options {
  name: string;
  kept: Kept;
  /** Sends one; unsure is called while no answer comes. */
  send: (q: Queued, unsure: () => void) => Promise<unknown>;
  /** Waits before the next try. */
  pause: (ms: number) => Promise<void>;
  /** Something was done: what is shown is asked for again before it leaves the queue. */
  done?: () => Promise<unknown>;
}

/** How long to wait before a command is sent again of which no answer came. */
const tryAgain = 1500;

/** Whether an answer says that the command was refused, rather than that nobody was there to answer it. */
const isRefusal = (e: unknown): e is Refused =>
  e instanceof Refused && e.status >= 400 && e.status < 500 && e.status !== 401 && e.status !== 408 && e.status !== 429;

/**
 * Commands in the order in which they were given, kept in the browser with their keys until the server has answered. They are sent one
 * after another; one that gets no answer is sent again, one that is refused is kept to be read, and the next is sent.
 */
export class Queue {
  private list: Queued[];
  private sending = false;
  private listeners = new Set<() => void>();
  private snapshot: { list: Queued[]; waiting: boolean };

  constructor(private readonly o: Options) {
    this.list = this.read();
    this.snapshot = { list: this.list, waiting: false };
  }

  private read(): Queued[] {
    try {
      const was: unknown = JSON.parse(this.o.kept.getItem(this.o.name) ?? '[]');
      return Array.isArray(was) ? (was as Queued[]) : [];
    } catch {
      return [];
    }
  }

  private keep(list: Queued[]) {
    this.list = list;
    this.o.kept.setItem(this.o.name, JSON.stringify(list));
    this.tell(this.snapshot.waiting);
  }

  private tell(waiting: boolean) {
    this.snapshot = { list: this.list, waiting };
    for (const f of this.listeners) f();
  }

  /** What waits and what was refused, the oldest first. */
  all = () => this.list;

  /** The same, and whether the one that is being sent has got no answer. */
  now = () => this.snapshot;

  subscribe = (f: () => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  put<P extends CommandPath>(path: P, ask: AskOf<P>, what: string) {
    this.keep([...this.list, { key: crypto.randomUUID(), path, ask, what } as unknown as Queued]);
    void this.run();
  }

  /** A refusal has been read. */
  acknowledge(key: string) {
    this.keep(this.list.filter((q) => q.key !== key));
  }

  /** Sends what waits, until nothing does. */
  async run() {
    if (this.sending) return;
    this.sending = true;
    try {
      for (;;) {
        const next = this.list.find((q) => q.refused === undefined);
        if (!next) break;
        try {
          await this.o.send(next, () => this.tell(true));
        } catch (e) {
          if (isRefusal(e)) {
            this.tell(false);
            this.keep(this.list.map((q) => (q.key === next.key ? { ...q, refused: e.message } : q)));
            await this.o.done?.();
            continue;
          }
          this.tell(true);
          await this.o.pause(tryAgain);
          continue;
        }
        this.tell(false);
        await this.o.done?.().catch(() => undefined);
        this.keep(this.list.filter((q) => q.key !== next.key));
      }
    } finally {
      this.sending = false;
    }
  }
}

const nameOf = (who: string) => `journeyman.queue.${who}`;

/** Whether something of somebody waits in this browser. */
export const waitsFor = (who: string) => (localStorage.getItem(nameOf(who)) ?? '[]') !== '[]';

/** The queue of somebody at this browser. */
export function queueOf(who: string, done: () => Promise<unknown>): Queue {
  const q = new Queue({
    name: nameOf(who),
    kept: localStorage,
    send: (q, unsure) => command(q.path, q.ask, undefined, q.key, undefined, unsure),
    pause: (ms) => new Promise((r) => setTimeout(r, ms)),
    done,
  });
  void q.run();
  addEventListener('online', () => void q.run());
  return q;
}
