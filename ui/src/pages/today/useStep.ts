import { useNavigate } from '@tanstack/react-router';
import { useCommand } from '../../parts/useCommand';
import type { Todo } from './words';

/** Takes the next step of what waits: at once where nothing is left to decide, else where it is decided. */
export function useStep(reschedule: (todo: Todo) => void) {
  const allocate = useCommand('/api/allocate');
  const release = useCommand('/api/release');
  const dispatch = useCommand('/api/dispatch');
  const go = useNavigate();
  const take = (todo: Todo) => {
    const params = { number: todo.number };
    switch (todo.kind) {
      case 'dispatch':
        dispatch.run({ ask: [{ number: todo.number, seen: todo.units }] });
        break;
      case 'release':
        release.run({ ask: { lines: todo.chosen } });
        break;
      case 'allocate':
        allocate.run({ ask: { lines: todo.chosen } });
        break;
      case 'short':
        if (todo.chosen.length > 0) allocate.run({ ask: { lines: todo.chosen } });
        else void go({ to: '/shortages', search: { sku: todo.sku, warehouse: todo.warehouse } });
        break;
      case 'arrival':
        reschedule(todo);
        break;
      case 'pick':
        void go({ to: '/floor/$number', params });
        break;
      case 'pack':
        void go({ to: '/packing', search: { row: `${todo.number} ${todo.warehouse ?? ''}` } });
        break;
      case 'delivery':
        void go({ to: '/shipments/$number', params });
        break;
      case 'hold':
        void go({ to: '/orders/$number', params });
        break;
      case 'keep':
      case 'promise':
        if (todo.promise) {
          const { line, sku, qty, warehouse, customer } = todo.promise;
          void go({ to: '/promise', search: { line: String(line), sku, qty: String(qty), warehouse, customer } });
        }
        break;
      case 'buy':
        void go({ to: '/buying', search: { q: todo.number } });
        break;
      case 'quote':
        void go({ to: '/quotes/$number', params });
        break;
    }
  };
  return { take, busy: allocate.busy || release.busy || dispatch.busy };
}
