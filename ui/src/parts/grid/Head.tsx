import { t } from '@lingui/core/macro';
import {
  columnOrderingFeature,
  columnResizingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  tableFeatures,
  useTable,
} from '@tanstack/react-table';
import { ArrowDown, ArrowUp, ChevronDown, Filter as FilterIcon } from 'lucide-react';
import { lazy, Suspense, useMemo, useState, type TouchEvent, type MouseEvent } from 'react';
import type { Toast } from '../../base/toasts';
import { chooseAll } from './chooseAll';
import type { ColumnMenu as Menu } from './ColumnMenu';
import { readFilter, type GridColumn } from './column';
import type { Grid } from './useGrid';

const ColumnMenu = lazy(() => import('./ColumnMenu').then((m) => ({ default: m.ColumnMenu }))) as unknown as typeof Menu;

const features = tableFeatures({ columnOrderingFeature, columnVisibilityFeature, columnSizingFeature, columnResizingFeature });

const none: object[] = [];

/** The titles of the columns: pressed, they sort; each has a menu with what else can be done. */
export function Head<T>({ grid, widths, tell }: { grid: Grid<T>; widths: number[]; tell: (toast: Omit<Toast, 'id'>) => void }) {
  const { choice } = grid;
  const resizers = useResizers(grid, widths);
  const found = grid.sum.data;
  const all = choice.size > 0 && found !== undefined && !found.more && choice.size >= found.rows;
  return (
    <thead>
      <tr aria-rowindex={1}>
        {grid.chooses && (
          <th>
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              aria-label={t`Choose all that are found`}
              checked={all}
              ref={(el) => {
                if (el) el.indeterminate = choice.size > 0 && !all;
              }}
              onChange={() => (choice.size ? choice.clear() : void chooseAll(grid, tell))}
            />
          </th>
        )}
        {grid.shown.map(({ column }, i) => (
          <HeadCell key={column.name} grid={grid} column={column} at={i} resize={resizers.get(column.name)} />
        ))}
      </tr>
    </thead>
  );
}

function HeadCell<T>({
  grid,
  column: c,
  at,
  resize,
}: {
  grid: Grid<T>;
  column: GridColumn<T>;
  at: number;
  resize?: (e: unknown) => void;
}) {
  const { search, set } = grid;
  const [menu, setMenu] = useState(false);
  const on = search.sort === c.name;
  const filtered = (search.only ?? []).some((f) => readFilter(f)?.column === c.name);
  if (!c.kind && !c.by) {
    return (
      <th className={c.num ? 'num' : undefined} title={c.hint}>
        <span className="truncate">{c.title}</span>
      </th>
    );
  }
  const start = (e: MouseEvent | TouchEvent) => resize?.(e);
  return (
    <th
      className={'group/head ' + (c.num ? 'num' : '')}
      aria-sort={on ? (search.down ? 'descending' : 'ascending') : undefined}
      title={c.hint}
    >
      <span className={'flex items-center gap-0.5 ' + (c.num ? 'flex-row-reverse' : '')}>
        <button
          className="inline-flex min-w-0 cursor-pointer items-center gap-0.5 hover:text-ink"
          title={c.hint ?? c.title}
          onClick={() =>
            set(on ? (search.down ? { sort: undefined, down: undefined } : { down: true }) : { sort: c.name, down: undefined })
          }
        >
          <span className="truncate">{c.title}</span>
          {on && (search.down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
          {filtered && <FilterIcon size={11} aria-label={t`filtered`} className="text-focus" />}
        </button>
        {!c.kind ? null : menu ? (
          <Suspense fallback={<ChevronDown size={12} aria-hidden />}>
            <ColumnMenu grid={grid} column={c} at={at} close={() => setMenu(false)} />
          </Suspense>
        ) : (
          <button
            aria-label={t`${c.title}: filter, group, arrange`}
            aria-haspopup="dialog"
            className="head-menu"
            onClick={() => setMenu(true)}
          >
            <ChevronDown size={12} aria-hidden />
          </button>
        )}
      </span>
      {resize && <span aria-hidden className="resizer" onMouseDown={start} onTouchStart={start} />}
    </th>
  );
}

/** What makes each column wider when its edge is drawn. */
function useResizers<T>(grid: Grid<T>, widths: number[]) {
  const columns = useMemo(() => grid.columns.map((c) => ({ id: c.name, header: c.title })), [grid.columns]);
  const sizing = Object.fromEntries(grid.shown.map((s, i) => [s.column.name, widths[i] ?? 0]));
  const table = useTable({
    features,
    columns,
    data: none,
    columnResizeMode: 'onEnd' as const,
    state: {
      columnSizing: sizing,
      columnOrder: grid.shown.map((s) => s.column.name),
      columnVisibility: Object.fromEntries(grid.columns.map((c) => [c.name, grid.shown.some((s) => s.column === c)])),
    },
    onColumnSizingChange: (next) => {
      const sizes = typeof next === 'function' ? next(sizing) : next;
      grid.setShown(
        grid.shown.map((s) => {
          const width = sizes[s.column.name];
          return width !== undefined && width !== sizing[s.column.name] ? { ...s, width } : s;
        }),
      );
    },
  });
  return new Map(table.getLeafHeaders().map((h) => [h.column.id, h.getResizeHandler()]));
}
