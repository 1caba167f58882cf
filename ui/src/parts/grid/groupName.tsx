import { t } from '@lingui/core/macro';
import { fromToday } from '../../base/day';
import { showDay } from '../../base/format';
import { shipRules } from '../asides';
import { Tier } from '../bits';
import type { GridColumn } from './column';
import type { Group } from './useGrid';

/** How the value of a group is written. */
export function groupName<T>(by: GridColumn<T>, g: Group) {
  if (by.name === 'tier') return <Tier n={Number(g.value)} />;
  return g.name || valueText(by, g.value);
}

/** A value of a column by which rows are grouped or filtered. */
export function valueText<T>(of: GridColumn<T>, value: string): string {
  if (!value) return t`none`;
  const name = of.named?.(value);
  if (name) return name;
  if (of.kind === 'date' || of.kind === 'moment') return fromToday(value) ?? showDay(value);
  if (of.kind === 'share') return `${value} %`;
  if (of.kind === 'weight') return `${value} kg`;
  return of.name === 'rule' ? (shipRules[value] ?? value) : value;
}
