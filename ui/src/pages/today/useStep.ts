import { useNavigate } from '@tanstack/react-router';
import { useCommand } from '../../parts/useCommand';
import type { Todo } from './words';

/** Takes the next step of what waits: at once where nothing is left to decide, else where it is decided. */
export function useStep(reschedule: (t: Todo) => void) {
  const allocate = useCommand('/api/allocate');
  const release = useCommand('/api/release');
  const dispatch = useCommand('/api/dispatch');
  const go = useNavigate();
  const take = (t: Todo) => {
    const params = { number: t.number };
    switch (t.kind) {
      case 'dispatch':
        dispatch.run({ ask: [{ number: t.number, seen: t.units }] });
        break;
      case 'release':
        release.run({ ask: { lines: t.chosen } });
        break;
      case 'allocate':
        allocate.run({ ask: { lines: t.chosen } });
        break;
      case 'arrival':
        reschedule(t);
        break;
      case 'pick':
        void go({ to: '/floor/$number', params });
        break;
      case 'pack':
        void go({ to: '/packing', search: { row: `${t.number} ${t.warehouse ?? ''}` } });
        break;
      case 'delivery':
        void go({ to: '/shipments/$number', params });
        break;
      case 'hold':
        void go({ to: '/orders/$number', params });
        break;
      case 'keep':
      case 'promise':
        if (t.promise) {
          const { line, sku, qty, warehouse, customer } = t.promise;
          void go({ to: '/promise', search: { line: String(line), sku, qty: String(qty), warehouse, customer } });
        }
        break;
      case 'buy':
        void go({ to: '/buying', search: { q: t.number } });
        break;
      case 'quote':
        void go({ to: '/quotes/$number', params });
        break;
    }
  };
  return { take, busy: allocate.busy || release.busy || dispatch.busy };
}
