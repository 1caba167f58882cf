import { t } from '@lingui/core/macro';
import { Star, Trash2 } from 'lucide-react';
import { useRef, useState } from 'react';
import { Dialog, Popover } from 'react-aria-components';
import { useSigned } from '../../base/session';
import { viewOf, type ListSearch } from '../../base/search';
import { KeyLayer } from '../../base/keys/useKey';
import { useCommand } from '../useCommand';
import type { Grid, ListName } from './useGrid';

/** The views of a list, its columns, and files to take along. */
export function GridMenu<T>({ grid, close }: { grid: Grid<T>; close: () => void }) {
  const anchor = useRef<HTMLButtonElement>(null);
  return (
    <>
      <button ref={anchor} className="btn btn-sm" aria-expanded="true">
        {t`View`}
      </button>
      <Popover
        triggerRef={anchor}
        isOpen
        onOpenChange={(open) => !open && close()}
        placement="bottom end"
        className="max-h-[80vh] max-w-[560px] overflow-y-auto rounded-box border border-line bg-card p-4 text-ink shadow-lg"
      >
        <Dialog aria-label={t`View`} className="flex gap-8 outline-none *:min-w-[230px]">
          <KeyLayer>
            {grid.list && (
              <div>
                <Views grid={grid} list={grid.list} close={close} />
                <Files grid={grid} list={grid.list} />
              </div>
            )}
            <Columns grid={grid} />
          </KeyLayer>
        </Dialog>
      </Popover>
    </>
  );
}

function Views<T>({ grid, list, close }: { grid: Grid<T>; list: ListName; close: () => void }) {
  const { views, search, replace } = grid;
  const { may } = useSigned();
  const keep = useCommand('/api/keep-view');
  const drop = useCommand('/api/drop-view');
  const now = views.data?.find((v) => v.id === search.view);
  const [name, setName] = useState(now?.name ?? '');
  const [all, setAll] = useState(now?.for_all ?? false);
  const [opens, setOpens] = useState(now?.opens ?? false);
  const mayAll = may('keep a view for all');
  const go = (to: ListSearch) => {
    replace(to);
    close();
  };
  return (
    <section className="mb-4">
      <h3 className="mb-1">{t`Views`}</h3>
      <button type="button" className="menu-row" aria-pressed={!now} onClick={() => go({ view: 0 })}>
        {t`Plain list`}
      </button>
      {views.data?.map((v) => (
        <div key={v.id} className="flex items-center">
          <button
            type="button"
            className="menu-row min-w-0 flex-1"
            aria-pressed={v.id === search.view}
            onClick={() => go({ ...(v.search as ListSearch), view: v.id })}
          >
            <span className="truncate">{v.name}</span>
            {v.opens && <Star size={12} aria-label={t`the list opens with it`} />}
            {v.for_all && <span className="ml-auto text-mute">{t`for all`}</span>}
          </button>
          {v.may && (
            <button
              type="button"
              className="cursor-pointer p-1 text-mute hover:text-ink"
              aria-label={t`Take away the view ${v.name}`}
              disabled={drop.busy}
              onClick={() => drop.run({ ask: { id: v.id } })}
            >
              <Trash2 size={13} aria-hidden />
            </button>
          )}
        </div>
      ))}
      <form
        className="mt-2 border-t border-line pt-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim())
            keep.run({ ask: { list, name: name.trim(), for_all: all, opens, search: JSON.stringify(viewOf(search)) } });
        }}
      >
        <label className="block">
          <span className="text-mute">{t`Keep what is shown as`}</span>
          <input
            className="input input-sm w-full"
            value={name}
            maxLength={60}
            onChange={(e) => setName(e.target.value)}
            placeholder={t`a name for the view`}
          />
        </label>
        {mayAll && (
          <label className="mt-1.5 flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-xs" checked={all} onChange={(e) => setAll(e.target.checked)} />
            {t`for all`}
          </label>
        )}
        <label className="mt-1.5 flex items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-xs" checked={opens} onChange={(e) => setOpens(e.target.checked)} />
          {t`the list opens with it`}
        </label>
        <button type="submit" className="btn btn-sm mt-2" disabled={!name.trim() || keep.busy}>
          {t`Keep view`}
        </button>
      </form>
    </section>
  );
}

function Columns<T>({ grid }: { grid: Grid<T> }) {
  const { columns, shown, setShown } = grid;
  return (
    <section>
      <h3 className="mb-1">{t`Columns`}</h3>
      {columns.map((c) => {
        const on = shown.some((s) => s.column === c);
        return (
          <label key={c.name} className="flex items-center gap-2 py-0.5">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={on}
              disabled={on && shown.length === 1}
              onChange={() => setShown(on ? shown.filter((s) => s.column !== c) : [...shown, { column: c }])}
            />
            {c.title || c.hint}
          </label>
        );
      })}
      <button
        type="button"
        className="btn btn-sm mt-2"
        onClick={() => setShown(columns.filter((c) => !c.aside).map((column) => ({ column })))}
      >
        {t`As it was`}
      </button>
    </section>
  );
}

/** The list as it is shown, as a file. */
function Files<T>({ grid, list }: { grid: Grid<T>; list: ListName }) {
  const at = (form: string) => {
    const q = new URLSearchParams({ form });
    for (const [k, v] of Object.entries({ ...grid.found, sort: grid.query.sort, down: grid.query.down })) {
      for (const one of Array.isArray(v) ? v : [v]) if (one !== undefined) q.append(k, String(one));
    }
    q.set('columns', grid.shown.flatMap((s) => s.column.file ?? (s.column.kind ? [s.column.name] : [])).join(','));
    return `/api/lists/${list}/file?${q.toString()}`;
  };
  return (
    <section>
      <h3 className="mb-1">{t`Take along`}</h3>
      <div className="flex gap-2">
        <a className="btn btn-sm" href={at('csv')} download>
          {t`CSV`}
        </a>
        <a className="btn btn-sm" href={at('xlsx')} download>
          {t`XLSX`}
        </a>
      </div>
      <p className="mt-1 text-mute">{t`All rows that are found, in the columns that are shown.`}</p>
    </section>
  );
}
