import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { ask, client } from '../api/call';
import { contentsOf, grams, type Box, type Job, type Ware } from './boxes';

/** What there is to pack the picked units of an order into, and how that could be done. */
export const proposal = (job: { order: string; warehouse: string; units: number }, ware: Ware) =>
  queryOptions({
    queryKey: ['propose packages', job.order, job.warehouse, job.units, ware],
    queryFn: ({ signal }) =>
      ask(client.POST('/api/propose-packages', { body: { order: job.order, warehouse: job.warehouse, ware }, signal })),
    retry: false,
  });

/** What putting them into these packages would come to. */
export const packTrial = (job: Job, boxes: Box[]) => {
  const body = {
    order: job.order,
    warehouse: job.warehouse,
    packages: boxes.map((b) => ({ of: b.of, weight_g: grams(b.kg), contents: contentsOf(job, b) })),
  };
  return queryOptions({
    queryKey: ['pack try', body],
    queryFn: ({ signal }) => ask(client.POST('/api/rehearse-pack', { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
};
