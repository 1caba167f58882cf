// @vitest-environment happy-dom
import { expect, test } from 'vitest';
import { Refused } from '../api/call';
import { Queue, type Queued } from './queue';

/** A queue with a server of which it is said what it answers, and a place where it is kept. */
function office(answers: (q: Queued) => Promise<unknown>, kept = new Map<string, string>()) {
  const sent: string[] = [];
  const options = {
    name: 'q',
    kept: { getItem: (n: string) => kept.get(n) ?? null, setItem: (n: string, v: string) => void kept.set(n, v) },
    send: (q: Queued) => {
      sent.push(`${q.what} ${q.key}`);
      return answers(q);
    },
    pause: () => Promise.resolve(),
  };
  return { queue: new Queue(options), kept, sent, options };
}

const settled = async (q: Queue, is: () => boolean) => {
  for (let i = 0; i < 200 && !is(); i++) await Promise.resolve();
  expect(is(), JSON.stringify(q.all())).toBe(true);
};
const whats = (sent: string[]) => sent.map((s) => s.split(' ')[0]);

test('what was scanned is sent in its order, once each', async () => {
  const { queue, sent, kept } = office(() => Promise.resolve());
  for (const what of ['a', 'b', 'c']) queue.put('/api/pick', [], what);
  await settled(queue, () => queue.all().length === 0);
  expect(whats(sent)).toEqual(['a', 'b', 'c']);
  expect(kept.get('q')).toBe('[]');
});

test('without an answer the same is sent again, with the same key, and the others wait', async () => {
  let down = 3;
  const { queue, sent } = office(() => (down-- > 0 ? Promise.reject(new Refused(0, 'nobody there')) : Promise.resolve()));
  queue.put('/api/pick', [], 'a');
  queue.put('/api/pick', [], 'b');
  await settled(queue, () => queue.all().length === 0);
  expect(whats(sent)).toEqual(['a', 'a', 'a', 'a', 'b']);
  expect(new Set(sent).size).toBe(2);
});

test('what is refused is kept to be read, and the next is sent', async () => {
  const { queue, sent } = office((q) =>
    q.what === 'a' ? Promise.reject(new Refused(409, 'It was recalled.')) : Promise.resolve(),
  );
  queue.put('/api/pick', [], 'a');
  queue.put('/api/pick', [], 'b');
  await settled(queue, () => queue.all().length === 1);
  expect(queue.all()[0]).toMatchObject({ what: 'a', refused: 'It was recalled.' });
  expect(whats(sent)).toEqual(['a', 'b']);
  queue.acknowledge(queue.all()[0]?.key ?? '');
  expect(queue.all()).toEqual([]);
});

test('a reload loses nothing, and what is broken is no queue', async () => {
  const never = new Promise(() => undefined);
  const first = office(() => never);
  first.queue.put('/api/pick', [], 'a');
  first.queue.put('/api/pick', [], 'b');
  const again = office(() => Promise.resolve(), first.kept);
  expect(again.queue.all().map((q) => q.what)).toEqual(['a', 'b']);
  const keys = again.queue.all().map((q) => q.key);
  await again.queue.run();
  expect(again.sent).toEqual([`a ${keys[0]}`, `b ${keys[1]}`]);
  expect(office(() => never, new Map([['q', '{"no']])).queue.all()).toEqual([]);
  expect(office(() => never, new Map([['q', '"x"']])).queue.all()).toEqual([]);
});
