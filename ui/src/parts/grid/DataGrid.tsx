import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQueries, useQueryClient } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ChevronDown, ChevronRight, GripVertical } from 'lucide-react';
import {
  memo,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type HTMLAttributes,
  type MouseEvent,
  type ReactNode,
  type RefObject,
} from 'react';
import { Button } from 'react-aria-components';
import { plural, showNum } from '../../base/format';
import { useKey } from '../../base/keys/useKey';
import { useToasts } from '../../base/toasts';
import { Failed } from '../states';
import { tabbed, type GridColumn, type Shown } from './column';
import { groupName } from './groupName';
import { Head } from './Head';
import { groupId, indexOf, layOut, lengthOf, near, pageQuery, stretchAt, whole, type Section, type Stretch } from './pages';
import { chooseAll } from './chooseAll';
import { layOutRows } from './local';
import { useDragging, useRowDrag, type Dragging, type Drags } from './useDrags';
import { useWidths } from './useWidths';
import type { Grid, Group } from './useGrid';

const all: Section[] = [whole];

interface Props<T> {
  grid: Grid<T>;
  label: string;
  /** What is said if nothing is found. */
  empty: ReactNode;
  /** How the value of a group is written, if not as its column's is. */
  groupName?: (by: string, g: Group) => ReactNode;
  /** What stands at the end of a group's head, as a bar. */
  groupBar?: (g: Group) => ReactNode;
  /** What Enter does with the row in focus, and how that is listed. */
  open: (row: T) => void;
  opens: string;
  /** Rows can be dragged onto others. */
  drags?: Drags<T>;
}

/**
 * Rows of a list: fetched page by page as they come onto the screen, sorted, filtered and grouped by the server. Arrow keys move the row in
 * focus, Space chooses it.
 */
export function DataGrid<T>({ grid, label, empty, groupName, groupBar, open, opens, drags }: Props<T>) {
  const { source, idOf, at, setAt, by, choice } = grid;
  const client = useQueryClient();
  const box = useRef<HTMLDivElement>(null);
  const scrolled = useRef(() => {});
  const { tell } = useToasts();
  const sections = useSections(grid);
  // What was looked for before stays until the first rows of what is looked for now have come.
  const first = sections?.[0];
  const first0 = by ? undefined : client.getQueryState(pageQuery(client, source, grid.query, whole, '').queryKey);
  const ready = grid.local !== undefined || (by ? sections !== undefined : first0?.data !== undefined);
  const asked = { query: grid.query, sections: sections ?? [] };
  const [before, setBefore] = useState(asked);
  if (ready && (before.query !== asked.query || before.sections !== asked.sections)) setBefore(asked);
  const shows = ready ? asked : before;
  const { local } = grid;
  const { row: rowHeight, text: textSize, head: headHeight } = useSizes(box);
  const chooserWidth = rowHeight > 40 ? 46 : 34; // for a finger, or for a pointer
  const stretches: Stretch<T>[] = local
    ? layOutRows(local, by, shows.sections)
    : layOut(client, source.list, shows.query, shows.sections);
  const count = lengthOf(stretches);
  // eslint-disable-next-line react-hooks/incompatible-library -- what it returns is not kept
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => rowHeight,
    overscan: 8,
    // Of the head of the table, which stays where it is.
    paddingStart: headHeight,
    scrollPaddingStart: headHeight,
    observeElementOffset: (of, tell) => {
      const el = of.scrollElement;
      if (!el) return;
      // That it is being scrolled changes nothing in a row: the list is not drawn again when that begins and ends.
      const read = () => tell(el.scrollTop, false);
      scrolled.current = read;
      read();
      el.addEventListener('scroll', read, { passive: true });
      return () => el.removeEventListener('scroll', read);
    },
  });
  useLayoutEffect(() => virtual.measure(), [virtual, rowHeight, headHeight]);
  const items = virtual.getVirtualItems();
  const wanted = local ? [] : near(stretches, items[0]?.index ?? 0, items.at(-1)?.index ?? 40);
  const pages = useQueries({
    queries: [
      ...wanted.map((s) => pageQuery(client, source, shows.query, s.section, s.start ?? '')),
      ...(ready || by || !first || before.query === grid.query ? [] : [pageQuery(client, source, grid.query, first, '')]),
    ],
  });
  const failed = pages.find((p) => p.error && !p.data) ?? (grid.groups.error && !grid.groups.data ? grid.groups : undefined);

  const widths = useWidths(
    grid.shown,
    stretches.find((s) => s.rows)?.rows ?? (none as T[]),
    box,
    grid.chooses ? chooserWidth : 0,
    grid.query.sort,
    textSize,
  );

  const index = at.id ? indexOf(stretches, at.id, idOf, at.index) : -1;
  const focused = index >= 0 ? index : count ? 0 : -1;
  const put = (i: number) => {
    const s = stretchAt(stretches, i);
    if (!s) return;
    const row = s.rows?.[i - s.at];
    if (s.start === undefined) setAt({ id: groupId(s.section), group: groupOf(grid, s.section), index: i });
    else if (row !== undefined) setAt({ id: idOf(row), row, index: i });
  };
  // The row in focus follows what is fetched: the page beside the list shows it as it is now.
  const here = focused >= 0 ? stretchAt(stretches, focused) : undefined;
  const now = here?.rows?.[focused - here.at];
  const head = here && here.start === undefined ? groupOf(grid, here.section) : undefined;
  useEffect(() => {
    if (now !== undefined) {
      if (at.row !== now || at.index !== focused) setAt({ id: idOf(now), row: now, index: focused });
    } else if (head !== undefined) {
      if (at.group !== head) setAt({ id: `group ${head.value}`, group: head, index: focused });
    } else if (count === 0 && ready && (at.row !== undefined || at.group !== undefined)) setAt({ id: '', index: 0 });
  }, [now, head, at, focused, count, ready, idOf, setAt]);
  useKept(grid, at.id);

  // Rows that were chosen and have changed since.
  const changed = choice.size
    ? stretches.flatMap((s) =>
        (s.rows ?? []).filter((r) => {
          const c = choice.ids.get(idOf(r));
          return c !== undefined && c.seen !== grid.versionOf(r);
        }),
      )
    : [];
  const changes = changed.map((r) => `${idOf(r)} ${grid.versionOf(r)}`).join();
  useEffect(() => grid.setChanged(changed), [changes]); // eslint-disable-line react-hooks/exhaustive-deps

  useLoaded(grid, stretches);

  const move = (to: number) => {
    const sought = Math.max(0, Math.min(count - 1, to));
    // Rows that have not come cannot have the focus: the last before them gets it, and they are asked for.
    const there = stretchAt(stretches, sought);
    const i = there && there.start !== undefined && !there.rows ? Math.max(0, there.at - 1) : sought;
    // A button that was pressed before keeps Enter for itself; whoever moves in the list means the row.
    takes.current = true;
    put(i);
    // The rows that come into sight are drawn with the one that gets the focus, not once more when the browser tells of the scrolling.
    const into = virtual.getOffsetForIndex(i, 'auto')?.[0];
    if (box.current && into !== undefined && into !== box.current.scrollTop) {
      box.current.scrollTop = into;
      scrolled.current();
    }
  };
  useEffect(() => {
    grid.step.current = (by) => move(focused + by);
  });
  // The row takes the focus of the page when keys move it, or when it was clicked.
  const takes = useRef(false);
  useLayoutEffect(() => {
    if (!takes.current) return;
    const row = box.current?.querySelector<HTMLElement>('tr[data-focus="true"]');
    if (!row) return;
    takes.current = false;
    row.focus({ preventScroll: true });
  });
  const page = () => Math.max(1, Math.floor((box.current?.clientHeight ?? 300) / rowHeight) - 2);
  useKey('ArrowDown, j', t`Next row`, () => move(focused + 1), inList);
  useKey('ArrowUp, k', t`Previous row`, () => move(focused - 1), inList);
  useKey('PageDown', t`A screen further`, () => move(focused + page()), inList);
  useKey('PageUp', t`A screen back`, () => move(focused - page()), inList);
  useKey('Home', t`First row`, () => move(0), inList);
  useKey('End', t`Last row that has come`, () => move(count - 1), inList);
  useKey('enter', head ? t`Open or fold the group` : opens, () => {
    if (head && here) fold(grid, here.section);
    else if (now !== undefined) open(now);
  });
  useKey('ArrowRight', t`Open the group`, () => here && !here.section.group?.open && fold(grid, here.section), {
    ...inList,
    enabled: head !== undefined,
  });
  useKey('ArrowLeft', t`Fold the group`, () => here?.section.group?.open && fold(grid, here.section), {
    ...inList,
    enabled: by !== undefined,
  });
  useKey('space, x', t`Choose the row`, () => now !== undefined && grid.can(now) && choice.toggle(now), {
    ...inList,
    enabled: grid.chooses,
  });
  useKey('mod+a', t`Choose all that are found`, () => void chooseAll(grid, tell), { ...inList, enabled: grid.chooses });
  useKey('esc', t`Choose none`, choice.clear, { ...inList, enabled: choice.size > 0 });
  useKey(
    'mod+c',
    t`Copy the chosen rows, or those that have come, for a spreadsheet`,
    () => {
      const clipboard = navigator.clipboard as Clipboard | undefined; // absent where the page does not come over TLS
      if (!clipboard)
        return tell({ text: t`This browser lets nothing be copied here. Take the list along as a file.`, bad: true });
      if (String(getSelection())) return void clipboard.writeText(String(getSelection()));
      const all = stretches.flatMap((s) => s.rows ?? []);
      const rows = choice.size ? all.filter((r) => choice.has(idOf(r))) : all;
      void clipboard.writeText(tabbed(rows, grid.shown));
      tell({ text: t`${plural(rows.length, grid.one)} copied, with a tab between values.` });
    },
    inList,
  );

  const dragging = useDragging(drags);
  // The titles know nothing of the row in focus: they are not drawn again when it moves.
  const titles = useMemo(
    () => <Head grid={grid} widths={widths} tell={tell} />,
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the grid is another one whenever the focus has moved
    [grid.search, grid.columns, grid.shown, grid.sum.data, grid.choice, grid.chooses, widths, tell],
  );
  const click = useRef<(i: number, e: MouseEvent) => void>(() => {});
  const pick = useRef<(i: number) => void>(() => {});
  useEffect(() => {
    click.current = (i, e) => {
      if (e.target instanceof Element && e.target.closest('a, button, input, select')) return put(i);
      takes.current = true;
      put(i);
      const s = stretchAt(stretches, i);
      if (s && s.start === undefined) fold(grid, s.section);
    };
    pick.current = (i) => {
      const s = stretchAt(stretches, i);
      const row = s?.rows?.[i - s.at];
      if (row !== undefined && grid.can(row)) choice.toggle(row);
    };
  });

  if (failed?.error) return <Failed error={failed.error} again={() => void failed.refetch()} />;
  if (count === 0 && ready) return <>{empty}</>;
  const last = items.at(-1);
  const total = grid.sum.data;
  return (
    <div ref={box} className="min-h-0 flex-1 overflow-auto contain-content" aria-busy={!ready}>
      <table
        role={by ? 'treegrid' : 'grid'}
        aria-label={label}
        aria-rowcount={total && !total.more && !by ? total.rows + 1 : -1}
        aria-multiselectable={grid.chooses || undefined}
        className="grid-table table-fixed"
        style={{ width: widths.reduce((n, w) => n + w, grid.chooses ? chooserWidth : 0), opacity: ready ? 1 : 0.6 }}
      >
        <colgroup>
          {grid.chooses && <col style={{ width: chooserWidth }} />}
          {grid.shown.map((s, i) => (
            <col key={s.column.name} style={{ width: widths[i] }} />
          ))}
        </colgroup>
        {titles}
        <tbody>
          {items[0] && items[0].index > 0 && <tr aria-hidden style={{ height: items[0].start - headHeight }} />}
          {items.map((v) => {
            const s = stretchAt(stretches, v.index);
            if (!s) return null;
            if (s.start === undefined) {
              return (
                <GroupHead
                  key={groupId(s.section)}
                  grid={grid}
                  section={s.section}
                  index={v.index}
                  focused={v.index === focused}
                  click={click}
                  name={groupName}
                  bar={groupBar}
                />
              );
            }
            const row = s.rows?.[v.index - s.at];
            if (row === undefined) {
              return (
                <tr key={`await ${v.index}`} aria-hidden>
                  <td colSpan={grid.shown.length + (grid.chooses ? 1 : 0)}>
                    <span className="block h-3 w-2/3 rounded bg-line/60" />
                  </td>
                </tr>
              );
            }
            const id = idOf(row);
            const chosen = choice.ids.get(id);
            return (
              <Row
                key={id}
                id={id}
                row={row}
                index={v.index}
                shown={grid.shown}
                focused={v.index === focused}
                chosen={grid.chooses ? chosen !== undefined : undefined}
                can={grid.can(row)}
                changed={chosen !== undefined && chosen.seen !== grid.versionOf(row)}
                level={by ? 2 : undefined}
                drag={drags?.can(row)}
                dragging={dragging}
                click={click}
                pick={pick}
              />
            );
          })}
          {last && virtual.getTotalSize() > last.end && <tr aria-hidden style={{ height: virtual.getTotalSize() - last.end }} />}
        </tbody>
      </table>
      <FewGroups grid={grid} />
    </div>
  );
}

/** How high a row is and how large its text, in pixels: on the floor there are larger ones. And how high the head of the table is. */
function useSizes(box: RefObject<HTMLElement | null>) {
  const [sizes, set] = useState({ row: 30, text: 13, head: 24 });
  useLayoutEffect(() => {
    const el = box.current;
    if (!el) return;
    const read = () => {
      const style = getComputedStyle(el);
      const [row, text] = ['--row-height', '--row-text'].map((name) => parseFloat(style.getPropertyValue(name)));
      const head = el.querySelector('thead')?.offsetHeight ?? 24;
      if (row && text) set((was) => (was.row === row && was.text === text && was.head === head ? was : { row, text, head }));
    };
    read();
    const seen = new ResizeObserver(read);
    seen.observe(el);
    return () => seen.disconnect();
  }, [box]);
  return sizes;
}

/** Of very many groups only some are listed. */
function FewGroups<T>({ grid }: { grid: Grid<T> }) {
  const d = grid.by && grid.groups.data;
  if (!d || d.total <= d.groups.length) return null;
  return (
    <p className="mt-2 text-mute">
      <Trans>
        The first {showNum(d.groups.length)} of {showNum(d.total)} groups are listed: narrow the list to see others.
      </Trans>
    </p>
  );
}

const inList = { repeat: true, group: t`In the list` };

const groupOf = <T,>(grid: Grid<T>, s: Section): Group | undefined => grid.groups.data?.groups.find((g) => g.value === s.key);

/** The whole list, or its groups, of which some are open. */
function useSections<T>(grid: Grid<T>): Section[] | undefined {
  const { by, groups, search } = grid;
  const unfolded = (search.unfolded ?? []).join('\n');
  return useMemo(() => {
    if (!by) return all;
    const open = unfolded.split('\n');
    return groups.data?.groups.map((g) => ({
      key: g.value,
      only: [`${by.name}=${g.value}`],
      group: { open: open.includes(g.value), rows: g.rows },
    }));
  }, [by, groups.data, unfolded]);
}

function fold<T>(grid: Grid<T>, s: Section) {
  const open = grid.search.unfolded ?? [];
  const next = s.group?.open ? open.filter((k) => k !== s.key) : [...open, s.key];
  grid.set({ unfolded: next.length ? next : undefined });
}

/** Tells the page which rows have come, if it has to know. */
function useLoaded<T>(grid: Grid<T>, stretches: Stretch<T>[]) {
  const was = useRef<(T[] | undefined)[]>([]);
  const { setLoaded } = grid;
  useEffect(() => {
    if (!setLoaded) return;
    const pages = stretches.map((s) => s.rows);
    if (pages.length === was.current.length && pages.every((p, i) => p === was.current[i])) return;
    was.current = pages;
    setLoaded(pages.flatMap((p) => p ?? []));
  });
}

/** The row in focus stands in the address, so that one comes back to it. */
function useKept<T>(grid: Grid<T>, id: string) {
  const { search, set } = grid;
  useEffect(() => {
    if (!id || (search.row ?? '') === id) return;
    const timer = setTimeout(() => set({ row: id }), 300);
    return () => clearTimeout(timer);
  }, [id]); // eslint-disable-line react-hooks/exhaustive-deps
}

const none: object[] = [];

interface RowProps<T> {
  id: string;
  row: T;
  index: number;
  shown: Shown<T>[];
  focused: boolean;
  /** Absent where nothing is chosen. */
  chosen?: boolean;
  can: boolean;
  changed: boolean;
  /** Beneath the head of a group. */
  level?: number;
  /** Whether it can be dragged now; absent where nothing is. */
  drag?: boolean;
  dragging: Dragging<T>;
  click: { current: (i: number, e: MouseEvent) => void };
  pick: { current: (i: number) => void };
}

/** Links and buttons of rows without the focus are passed over by Tab. */
function useTabs(focused: boolean) {
  const ref = useRef<HTMLTableRowElement>(null);
  useLayoutEffect(() => {
    for (const el of ref.current?.querySelectorAll<HTMLElement>('a, button, input, select') ?? []) el.tabIndex = focused ? 0 : -1;
  });
  return ref;
}

const Row = memo(function Row<T>(p: RowProps<T>) {
  const ref = useTabs(p.focused);
  return p.drag === undefined ? <Cells {...p} of={ref} /> : <DragRow {...p} of={ref} />;
}) as <T>(p: RowProps<T>) => ReactNode;

interface CellsProps<T> extends RowProps<T> {
  of: RefObject<HTMLTableRowElement | null>;
}

/** A row that can be dragged onto another, by the pointer or from its button. */
function DragRow<T>(p: CellsProps<T>) {
  const { drag, drop } = useRowDrag(p.dragging, { id: p.id, row: p.row, can: p.drag === true, ref: p.of });
  return (
    <Cells
      {...p}
      bind={{ ...drag.dragProps, ...drop.dropProps }}
      over={drop.isDropTarget}
      lead={
        <Button {...drag.dragButtonProps} isDisabled={!p.drag} className="grip" aria-label={p.dragging.drags()?.what(p.row)}>
          <GripVertical size={12} aria-hidden />
        </Button>
      }
    />
  );
}

function Cells<T>(p: CellsProps<T> & { bind?: HTMLAttributes<HTMLElement>; over?: boolean; lead?: ReactNode }) {
  const { id, row, index, shown, focused, chosen, can, changed, level, click, pick, of, bind, over, lead } = p;
  return (
    <tr
      {...bind}
      ref={of}
      data-row
      data-focus={focused}
      aria-rowindex={index + 2}
      aria-selected={chosen}
      aria-level={level}
      tabIndex={focused ? 0 : -1}
      className={over ? 'outline-2 -outline-offset-2 outline-focus' : 'outline-none'}
      onClick={(e) => click.current(index, e)}
    >
      {chosen !== undefined && (
        <td>
          {can && (
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              aria-label={t`Choose ${id}`}
              checked={chosen}
              onChange={() => pick.current(index)}
            />
          )}
          {changed && (
            <span className="late absolute" title={t`It has changed since you chose it`} role="img" aria-label={t`changed`}>
              !
            </span>
          )}
        </td>
      )}
      {shown.map(({ column }, i) => (
        <Cell
          key={column.name}
          column={column}
          row={row}
          focused={column.focusCell !== undefined && focused}
          lead={i === 0 ? lead : undefined}
        />
      ))}
    </tr>
  );
}

const Cell = memo(function Cell<T>({ column, row, focused, lead }: CellProps<T>) {
  const text = column.text(row);
  const shown = column.focusCell?.(row, focused) ?? column.cell?.(row) ?? text;
  return (
    <td
      className={(column.num ? 'num ' : '') + (column.cut ? 'cut' : column.field ? 'hangs' : '')}
      title={column.cut ? text : undefined}
    >
      {lead}
      {column.cut ? <span>{shown}</span> : shown}
    </td>
  );
}) as <T>(p: CellProps<T>) => ReactNode;

interface CellProps<T> {
  column: GridColumn<T>;
  row: T;
  /** Whether the focus is on its row, if the column looks otherwise then. */
  focused: boolean;
  lead?: ReactNode;
}

function GroupHead<T>({
  grid,
  section,
  index,
  focused,
  click,
  name,
  bar,
}: {
  grid: Grid<T>;
  section: Section;
  index: number;
  focused: boolean;
  click: { current: (i: number, e: MouseEvent) => void };
  name?: (by: string, g: Group) => ReactNode;
  bar?: (g: Group) => ReactNode;
}) {
  const g = groupOf(grid, section);
  const ref = useTabs(focused);
  if (!g || !grid.by) return null;
  const open = section.group?.open ?? false;
  const sums = grid.shown.flatMap(({ column }) => {
    const n = g.sums[column.name];
    return column.sum && n !== undefined ? [[column, column.sum(n)] as const] : [];
  });
  return (
    <tr
      ref={ref}
      data-row
      data-group
      data-focus={focused}
      aria-rowindex={index + 2}
      aria-level={1}
      aria-expanded={open}
      tabIndex={focused ? 0 : -1}
      className="outline-none"
      onClick={(e) => click.current(index, e)}
    >
      <td colSpan={grid.shown.length + (grid.chooses ? 1 : 0)}>
        <span className="flex items-center gap-4">
          <span className="flex w-[300px] items-center gap-1.5 font-semibold">
            {open ? <ChevronDown size={14} aria-hidden /> : <ChevronRight size={14} aria-hidden />}
            <span className="truncate">{name?.(grid.by.name, g) ?? groupName(grid.by, g)}</span>
          </span>
          <span className="w-[90px] text-right text-mute">{plural(g.rows, grid.one)}</span>
          {sums.map(([column, text]) => (
            <span key={column.name} className="min-w-[110px] text-right">
              {text} <span className="text-mute">{column.title.toLowerCase()}</span>
            </span>
          ))}
          {bar && <span className="ml-auto">{bar(g)}</span>}
        </span>
      </td>
    </tr>
  );
}
