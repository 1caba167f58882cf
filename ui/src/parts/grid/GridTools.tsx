import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { plural } from '../../base/format';
import { readFilter } from './column';
import { valueText } from './groupName';
import type { GridMenu as Menu } from './GridMenu';
import type { Grid } from './useGrid';

const GridMenu = lazy(() => import('./GridMenu').then((m) => ({ default: m.GridMenu }))) as unknown as typeof Menu;

/** How many rows were found, and the means to count very many of them. */
export function Found<T>({ grid, also }: { grid: Grid<T>; also?: (sums: Record<string, number>) => ReactNode }) {
  const d = grid.sum.data;
  if (!d) return null;
  if (!d.more) {
    return (
      <>
        {plural(d.rows, grid.one)}
        {also?.(d.sums)}
      </>
    );
  }
  return (
    <span className="inline-flex items-center gap-2">
      <Trans>more than {plural(d.rows, grid.one)}</Trans>
      <button className="btn btn-xs btn-pill" onClick={() => grid.set({ exact: true })}>
        {t`Count them all`}
      </button>
    </span>
  );
}

/** Filters that stand, each of which can be taken away. */
export function Chips<T>({ grid, children }: { grid: Grid<T>; children?: ReactNode }) {
  const only = grid.search.only ?? [];
  if (!only.length && !children) return null;
  return (
    <p className="flex flex-wrap gap-2 pb-2">
      {children}
      {only.map((text) => {
        const f = readFilter(text);
        const c = grid.columns.find((x) => x.name === f?.column);
        if (!f || !c) return null;
        const value = valueText(c, f.value);
        return (
          <button
            key={text}
            className="btn btn-xs btn-pill"
            aria-pressed
            aria-label={t`Take away: ${c.title} ${opNames[f.op] ?? f.op} ${value}`}
            onClick={() => {
              const rest = only.filter((x) => x !== text);
              grid.set({ only: rest.length ? rest : undefined });
            }}
          >
            {c.title} {opNames[f.op]} {value} ×
          </button>
        );
      })}
    </p>
  );
}

const opNames: Record<string, string> = { '=': t`is`, '!=': t`is not`, '~': t`has`, '>=': t`from`, '<=': t`to` };

/** What the rows are grouped by, if by anything. */
export function GroupBy<T>({ grid }: { grid: Grid<T> }) {
  const { columns, search, set } = grid;
  return (
    <select
      aria-label={t`Group the rows`}
      className="select select-sm"
      value={grid.by?.name ?? ''}
      onChange={(e) => set({ group: e.target.value || undefined, unfolded: undefined, row: undefined, sort: search.sort })}
    >
      <option value="">{t`No groups`}</option>
      {columns
        .filter((c) => c.group)
        .map((c) => (
          <option key={c.name} value={c.name}>
            {t`By ${typeof c.group === 'string' ? c.group : c.title.toLowerCase()}`}
          </option>
        ))}
    </select>
  );
}

/** Views, columns and files of the list. */
export function More<T>({ grid }: { grid: Grid<T> }) {
  const [open, setOpen] = useState(false);
  if (!open) {
    return (
      <button className="btn btn-sm" aria-haspopup="dialog" onClick={() => setOpen(true)}>
        {t`View`}
      </button>
    );
  }
  return (
    <Suspense fallback={<button className="btn btn-sm">{t`View`}</button>}>
      <GridMenu grid={grid} close={() => setOpen(false)} />
    </Suspense>
  );
}
