import { t } from '@lingui/core/macro';
import { showDay } from '../../base/format';
import { shipRules } from '../asides';
import { Tier } from '../bits';
import type { GridColumn } from './column';
import type { Group } from './useGrid';

/** How the value of a group is written. */
export function groupName<T>(by: GridColumn<T>, g: Group) {
  if (by.name === 'tier') return <Tier n={Number(g.value)} />;
  if (by.name === 'rule') return shipRules[g.value] ?? g.value;
  if (by.kind === 'date' && g.value) return showDay(g.value);
  return g.name || g.value || t`none`;
}
