import { t } from '@lingui/core/macro';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { ChevronDown } from 'lucide-react';
import { useRef, useState } from 'react';
import { Dialog, Popover } from 'react-aria-components';
import { ask, client } from '../../api/call';
import { showNum } from '../../base/format';
import { fromToday, readFilterDay, writeDay } from '../../base/day';
import { readDecimal, writeDecimal } from '../../base/decimal';
import { KeyLayer } from '../../base/keys/useKey';
import { useStrip } from '../useStrip';
import { least, readFilter, writeFilter, type GridColumn } from './column';
import { groupName } from './groupName';
import { others, type Grid } from './useGrid';

/** What can be done with a column: sort, filter and group by it, and where and how wide it stands. */
export function ColumnMenu<T>({
  grid,
  column: c,
  at,
  close,
}: {
  grid: Grid<T>;
  column: GridColumn<T>;
  at: number;
  close: () => void;
}) {
  const anchor = useRef<HTMLButtonElement>(null);
  const { set, shown, setShown } = grid;
  const does = (what: () => void) => () => {
    close();
    what();
  };
  const move = (by: number) => {
    const next = [...shown];
    const [one] = next.splice(at, 1);
    if (one) next.splice(at + by, 0, one);
    setShown(next);
  };
  const resize = (by: number, el: HTMLElement | null) => {
    const now = shown[at]?.width ?? el?.closest('th')?.offsetWidth ?? 100;
    setShown(shown.map((s, i) => (i === at ? { ...s, width: Math.max(least, now + by) } : s)));
  };
  return (
    <>
      <button ref={anchor} aria-label={t`${c.title}: filter, group, arrange`} aria-expanded="true" className="head-menu">
        <ChevronDown size={12} aria-hidden />
      </button>
      <Popover
        triggerRef={anchor}
        isOpen
        onOpenChange={(open) => !open && close()}
        placement="bottom start"
        className="w-[270px] rounded-box border border-line bg-card p-2 text-row font-normal text-ink shadow-lg"
      >
        <Dialog aria-label={c.title} className="outline-none">
          <KeyLayer>
            <Item run={does(() => set({ sort: c.name, down: undefined }))}>{t`Sort, the least first`}</Item>
            <Item run={does(() => set({ sort: c.name, down: true }))}>{t`Sort, the greatest first`}</Item>
            {c.group && grid.search.group !== c.name && (
              <Item run={does(() => set({ group: c.name, unfolded: undefined, row: undefined }))}>{t`Group by this`}</Item>
            )}
            <FilterBy grid={grid} column={c} close={close} />
            <div className="mt-1 grid grid-cols-2 border-t border-line pt-1">
              <Item off={at === 0} run={() => move(-1)}>
                {t`Move left`}
              </Item>
              <Item off={at === shown.length - 1} run={() => move(1)}>
                {t`Move right`}
              </Item>
              <Item run={() => resize(24, anchor.current)}>{t`Wider`}</Item>
              <Item run={() => resize(-24, anchor.current)}>{t`Narrower`}</Item>
            </div>
            <Item off={shown.length === 1} run={does(() => setShown(shown.filter((_, i) => i !== at)))}>
              {t`Hide the column`}
            </Item>
          </KeyLayer>
        </Dialog>
      </Popover>
    </>
  );
}

function Item({ run, off, children }: { run: () => void; off?: boolean; children: string }) {
  return (
    <button type="button" className="menu-row" disabled={off} onClick={run}>
      {children}
    </button>
  );
}

/** What is asked for in a field of a kind, and what is not one. */
const kinds: Record<string, [string, string]> = {
  number: [t`number`, t`a whole number`],
  money: [t`amount`, t`an amount`],
  share: [t`per cent`, t`a number of per cent`],
  weight: [t`kg`, t`a number of kilograms`],
};

/** A number as it is typed, as the server takes it. */
function plainNumber(text: string, digits: number): string | undefined {
  const minus = /^[-−]/.test(text.trim());
  const n = readDecimal(minus ? text.trim().slice(1) : text, digits);
  return n === undefined ? undefined : (minus ? '-' : '') + writeDecimal(n, digits, { group: '', decimal: '.' }, 0);
}

/** Filters by a column: by values that it has, by a part of it, or from one value to another. */
function FilterBy<T>({ grid, column: c, close }: { grid: Grid<T>; column: GridColumn<T>; close: () => void }) {
  const { set, search } = grid;
  const mine = (search.only ?? []).map(readFilter).filter((f) => f?.column === c.name);
  const value = (op: string) => mine.find((f) => f?.op === op)?.value ?? '';
  const day = c.kind === 'date' || c.kind === 'moment';
  const today = useStrip().data?.today ?? new Date().toISOString().slice(0, 10);
  const written = (op: string) => (day ? (fromToday(value(op)) ? value(op) : writeDay(value(op), today)) : value(op));
  const [typed, setTyped] = useState({ has: value('~'), from: written('>='), to: written('<=') });
  const put = (filters: string[]) => {
    const only = [...others(search.only, c.name), ...filters];
    set({ only: only.length ? only : undefined });
  };
  const listed = useQuery({
    queryKey: [grid.name, 'groups', { ...grid.found, only: others(grid.found.only, c.name) }, c.name, 'rows'],
    queryFn: ({ signal }) =>
      ask(
        client.GET('/api/lists/{list}/groups', {
          params: {
            path: { list: grid.list ?? 'orders' },
            query: { ...grid.found, only: others(grid.found.only, c.name), by: c.name },
          },
          signal,
        }),
      ),
    enabled: Boolean(c.group) && grid.list !== undefined,
    placeholderData: keepPreviousData,
  });
  const values = grid.valuesOf(c) ?? listed.data?.groups ?? [];
  const chosen = mine.flatMap((f) => (f?.op === '=' ? [f.value] : []));
  const ranged = c.kind !== 'text';
  const [why, setWhy] = useState('');
  const submit = () => {
    const out: string[] = [];
    for (const [op, text] of ranged
      ? ([
          ['>=', typed.from],
          ['<=', typed.to],
        ] as const)
      : ([['~', typed.has]] as const)) {
      if (text.trim() === '') continue;
      const read = day ? readFilterDay(text, today) : undefined;
      if (read?.why) return setWhy(read.why);
      const value = read
        ? read.day
        : !ranged
          ? text.trim()
          : plainNumber(text, c.kind === 'money' || c.kind === 'share' ? 2 : c.kind === 'weight' ? 3 : 0);
      if (value === undefined) return setWhy(t`“${text.trim()}” is not ${(kinds[c.kind ?? ''] ?? kinds.number)?.[1] ?? ''}.`);
      out.push(writeFilter({ column: c.name, op, value }));
    }
    put([...chosen.map((v) => `${c.name}=${v}`), ...out]);
    close();
  };
  return (
    <form
      className="mt-1 border-t border-line px-2 pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      {ranged ? (
        <div className="flex items-center gap-2">
          {(['from', 'to'] as const).map((end) => (
            <label key={end} className="min-w-0 flex-1">
              <span className="text-mute">{end === 'from' ? (day ? t`From` : t`At least`) : day ? t`To` : t`At most`}</span>
              <input
                className="input input-sm w-full"
                inputMode={day ? undefined : 'decimal'}
                placeholder={day ? t`today, +3, fri…` : kinds[c.kind ?? '']?.[0]}
                value={typed[end]}
                onChange={(e) => setTyped((was) => ({ ...was, [end]: e.target.value }))}
              />
            </label>
          ))}
        </div>
      ) : (
        <label>
          <span className="text-mute">{t`Has`}</span>
          <input
            className="input input-sm w-full"
            value={typed.has}
            onChange={(e) => setTyped((was) => ({ ...was, has: e.target.value }))}
            placeholder={t`part of a name or number`}
          />
        </label>
      )}
      {why && (
        <p role="alert" className="late pt-1">
          {why}
        </p>
      )}
      {c.group && values.length > 0 && (
        <fieldset className="mt-2 max-h-[180px] overflow-y-auto">
          <legend className="text-mute">{t`Only`}</legend>
          {values.slice(0, 40).map((g) => (
            <label key={g.value} className="flex items-center gap-2 py-0.5">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={chosen.includes(g.value)}
                onChange={(e) => {
                  const next = e.target.checked ? [...chosen, g.value] : chosen.filter((v) => v !== g.value);
                  put([
                    ...next.map((v) => `${c.name}=${v}`),
                    ...mine.flatMap((f) => (f && f.op !== '=' ? [writeFilter(f)] : [])),
                  ]);
                }}
              />
              <span className="truncate">{groupName(c, g)}</span>
              <span className="ml-auto text-mute">{showNum(g.rows)}</span>
            </label>
          ))}
        </fieldset>
      )}
      <div className="flex justify-end gap-2 py-2">
        {mine.length > 0 && (
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => {
              put([]);
              close();
            }}
          >
            {t`Take away`}
          </button>
        )}
        <button type="submit" className="btn btn-sm btn-primary">
          {t`Filter`}
        </button>
      </div>
    </form>
  );
}
