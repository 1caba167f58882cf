import { t } from '@lingui/core/macro';
import { ask, client } from '../../api/call';
import { showNum } from '../../base/format';
import type { Toast } from '../../base/toasts';
import type { Chosen } from './useChoice';
import type { Grid } from './useGrid';

/** Chooses all rows that are found, also those that have not come; each as it is now. */
export async function chooseAll<T>(grid: Grid<T>, tell: (toast: Omit<Toast, 'id'>) => void) {
  if (!grid.list) return;
  try {
    const all = await ask(
      client.GET('/api/lists/{list}/keys', {
        params: {
          path: { list: grid.list },
          query: { ...grid.found, sort: grid.query.sort, down: grid.query.down, sums: grid.adds },
        },
      }),
    );
    const ids = new Map<string, Chosen<T>>(all.keys.map((k, i) => [k, { seen: all.seen[i] ?? 0 }]));
    grid.choice.setAll(ids, all.sums);
    if (all.more) {
      tell({ text: t`The first ${showNum(ids.size)} are chosen: a command takes no more. Narrow the list to choose others.` });
    }
  } catch (e) {
    tell({ text: e instanceof Error ? e.message : String(e), bad: true });
  }
}
