import { beforeEach, expect, test, vi } from 'vitest';
import { follow, type Surroundings } from './stream';

/** A source as the browser has it, driven by the test. */
class Source {
  readyState = 0;
  onopen?: () => void;
  onerror?: () => void;
  onmessage?: (m: { data: string }) => void;
  beat?: () => void;
  addEventListener = (_: string, f: () => void) => (this.beat = f);
  close = () => (this.readyState = 2);
  opens = () => ((this.readyState = 1), this.onopen?.());
  breaks = () => ((this.readyState = 0), this.onerror?.());
  isRefused = () => ((this.readyState = 2), this.onerror?.());
}

let sources: Source[] = [];
const at: Surroundings = {
  connect: () => {
    const s = new Source();
    sources.push(s);
    return s as unknown as EventSource;
  },
  now: () => Date.now(),
  later: (f, ms) => setTimeout(f, ms),
  stop: (t) => clearTimeout(t),
};

beforeEach(() => {
  vi.useFakeTimers();
  sources = [];
});

function started() {
  const hears = { changes: vi.fn(), back: vi.fn(), state: vi.fn(), refused: vi.fn() };
  const stream = follow('/api/live', hears, at);
  const last = () => sources.at(-1)!;
  last().opens();
  return { hears, stream, last };
}

test('what colleagues change is told as it comes', () => {
  const { hears, last } = started();
  last().onmessage?.({ data: '[{"orders":["SO-1"]}]' });
  expect(hears.changes).toHaveBeenCalledWith([{ orders: ['SO-1'] }]);
  expect(hears.state).not.toHaveBeenCalled();
  expect(hears.back).not.toHaveBeenCalled();
});

test('a connection that breaks is left to the browser; since when the numbers are old is said until it is back', () => {
  const { hears, last } = started();
  vi.advanceTimersByTime(7000);
  last().beat?.();
  const until = Date.now();
  vi.advanceTimersByTime(3000);
  last().breaks();
  last().breaks();
  expect(hears.state.mock.calls).toEqual([[until]]);
  expect(sources).toHaveLength(1);
  last().opens();
  expect(hears.state).toHaveBeenLastCalledWith(undefined);
  expect(hears.back).toHaveBeenCalledTimes(1);
});

test('one that is refused is tried again, less and less often', () => {
  const { hears, last } = started();
  last().isRefused();
  expect(hears.refused).toHaveBeenCalledTimes(1);
  for (const wait of [1000, 2000, 4000]) {
    const before = sources.length;
    vi.advanceTimersByTime(wait - 1);
    expect(sources).toHaveLength(before);
    vi.advanceTimersByTime(1);
    expect(sources).toHaveLength(before + 1);
    last().isRefused();
  }
  vi.advanceTimersByTime(8000);
  last().opens();
  expect(hears.back).toHaveBeenCalledTimes(1);
});

test('a server that says nothing for long is not there, though the browser believes it', () => {
  const { hears, last } = started();
  for (let i = 0; i < 6; i++) {
    vi.advanceTimersByTime(15_000);
    last().beat?.();
  }
  expect(sources).toHaveLength(1);
  vi.advanceTimersByTime(50_000); // as when the machine slept
  expect(sources).toHaveLength(2);
  expect(hears.state).toHaveBeenCalledTimes(1);
  last().opens();
  expect(hears.back).toHaveBeenCalledTimes(1);
});

test('an old connection that ends late says nothing of the new one, and nothing comes after the end', () => {
  const { hears, stream, last } = started();
  const old = last();
  vi.advanceTimersByTime(50_000);
  last().opens();
  hears.state.mockClear();
  old.onerror?.();
  expect(hears.state).not.toHaveBeenCalled();
  stream.stop();
  vi.advanceTimersByTime(500_000);
  expect(sources).toHaveLength(2);
});
