import { useQuery } from '@tanstack/react-query';
import { questions } from '../../base/questions';
import { useList } from '../../parts/list';
import { Answer } from './Answer';
import { Standing } from './Standing';

/** What can be promised, and by when; without an item, the promises that stand. */
export function PromisePage() {
  const [search] = useList();
  const query = {
    sku: search.sku ?? '',
    qty: Math.max(1, Number(search.qty) || 1),
    wished: search.wished,
    customer: search.customer,
    service: search.service,
    warehouse: search.warehouse,
    line: Number(search.line) || undefined,
  };
  const answer = useQuery({
    ...questions.canPromise(query),
    enabled: query.sku !== '',
    placeholderData: (before) => (before?.sku === query.sku ? before : undefined),
  });
  return query.sku === '' ? <Standing /> : <Answer answer={answer} asked={query} />;
}
