import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { useSyncExternalStore } from 'react';
import { queueOf, type Queue } from '../../base/queue';
import { useSigned } from '../../base/session';

let made: { name: string; queue: Queue } | undefined;

/** What somebody scanned at this browser, one queue for each person. What waits is sent from now on. */
export function ofPerson(name: string, queries: QueryClient): Queue {
  if (made?.name !== name) made = { name, queue: queueOf(name, () => queries.invalidateQueries()) };
  return made.queue;
}

/** What was scanned and waits to be sent, or was refused. */
export function useQueue() {
  const { me } = useSigned();
  const queue = ofPerson(me.name, useQueryClient());
  const { list, waiting } = useSyncExternalStore(queue.subscribe, queue.now);
  return { queue, list, waiting };
}
