import type { Change } from './concerns';

/** What the stream needs of the window; tests have their own. */
export interface Surroundings {
  connect: (url: string) => EventSource;
  now: () => number;
  later: (f: () => void, ms: number) => ReturnType<typeof setTimeout>;
  stop: (timer: ReturnType<typeof setTimeout>) => void;
}

const window0: Surroundings = {
  connect: (url) => new EventSource(url),
  now: () => Date.now(),
  later: (f, ms) => setTimeout(f, ms),
  stop: (t) => clearTimeout(t),
};

/** The server says every 15 s that it is there: one that has not for so long is not, whatever the browser believes. */
const silence = 40_000;
const look = 5_000;

interface Hears {
  changes: (c: Change[]) => void;
  /** It is up again after it was down: what happened in between is not known. */
  back: () => void;
  /** Until when everything was heard; undefined if the stream is up. */
  state: (since: number | undefined) => void;
  /** The server refused it: perhaps the session has ended. */
  refused: () => void;
}

/**
 * The stream of what colleagues change. It comes back by itself: after the connection broke, after the server refused or was renewed, and
 * after the machine slept. Until what is returned is called.
 */
export function follow(url: string, hears: Hears, at: Surroundings = window0): { stop: () => void; check: () => void } {
  let source: EventSource | undefined;
  let heard = at.now();
  let down = false;
  let tries = 0;
  let again: ReturnType<typeof setTimeout> | undefined;
  let stopped = false;
  const fail = () => {
    if (!down) hears.state(heard);
    down = true;
  };
  const retry = () => {
    source?.close();
    if (again !== undefined || stopped) return;
    again = at.later(
      () => {
        again = undefined;
        open();
      },
      Math.min(30_000, 1000 * 2 ** tries++),
    );
  };
  const open = () => {
    const s = at.connect(url);
    source = s;
    s.onopen = () => {
      heard = at.now();
      tries = 0;
      if (down) {
        down = false;
        hears.state(undefined);
        hears.back();
      }
    };
    s.onerror = () => {
      if (s !== source) return;
      fail();
      // A connection that broke is tried again by the browser itself; one that was refused is not.
      if (s.readyState !== 2) return;
      hears.refused();
      retry();
    };
    s.addEventListener('beat', () => (heard = at.now()));
    s.onmessage = (m: MessageEvent) => {
      heard = at.now();
      hears.changes(JSON.parse(String(m.data)) as Change[]);
    };
  };
  /** Looks whether the server has been silent for too long, as after a sleep. */
  const check = () => {
    if (stopped || again !== undefined || at.now() - heard < silence) return;
    fail();
    source?.close();
    open();
    heard = at.now(); // it gets its time to answer
  };
  let timer = at.later(function tick() {
    check();
    timer = at.later(tick, look);
  }, look);
  open();
  return {
    stop: () => {
      stopped = true;
      at.stop(timer);
      if (again !== undefined) at.stop(again);
      source?.close();
    },
    check,
  };
}
