import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Schemas } from '../../api/call';
import { questions } from '../../base/questions';
import { Dialog } from '../../parts/Dialog';
import { useCommand } from '../../parts/useCommand';

type Shape = Schemas['Shape'];
type Mapping = Schemas['Mapping'];

const kinds: [Mapping['kind'], string][] = [
  ['orders', t`Orders`],
  ['items', t`Items`],
  ['stock', t`Stock`],
  ['customers', t`Customers`],
  ['inbound', t`Inbound`],
  ['substitutes', t`Substitutes`],
  ['zones', t`Zones`],
  ['left out', t`Nothing: leave it out`],
];
const days: [Mapping['days'], string][] = [
  ['ymd', '2027-12-24'],
  ['dmy', t`24/12/2027, day first`],
  ['mdy', t`12/24/2027, month first`],
];
const decimals: [Mapping['decimal'], string][] = [
  ['point', '1,234.50'],
  ['comma', '1.234,50'],
];

const inWords: Record<string, string> = {
  sku: t`item number`,
  qty: 'quantity',
  wanted: t`requested date`,
  due: t`due date`,
  ref: 'reference',
  order: t`order number`,
  line: t`line number`,
  customer: t`customer number`,
  customer_ref: t`customer's order number`,
  ship_to: t`ship-to code`,
  multiple: t`pack size`,
  held: t`held (unusable)`,
  weight_kg: t`weight in kg`,
  entered: t`order date`,
  discount: 'discount %',
};

/** A column of ours in words: ship_by as “ship by”. */
const said = (column: string) => inWords[column] ?? column.replaceAll('_', ' ');

/** How the files were read, each with a way to read it otherwise. */
export function Shapes({ of, again }: { of: Shape[]; again: () => void }) {
  const asked = of.find((s) => s.asks);
  const [open, setChanging] = useState(asked);
  return (
    <>
      {asked && (
        <p className="late mt-4" role="alert">
          {asked.file}:{' '}
          {asked.asks === 'days' ? t`its days may begin with the day or with the month` : t`its columns are not known`}.
        </p>
      )}
      <ul className="mt-3 max-w-[980px]">
        {of.map((s) => (
          <li key={s.file} className="flex h-8 items-center gap-3">
            <span className="min-w-0 truncate">
              <b>{s.file}</b>{' '}
              <span className="text-mute">
                {s.asks
                  ? t`has to be read by somebody first`
                  : s.mapping.kind === 'left out'
                    ? t`left out`
                    : t`read as ${s.mapping.kind}`}
                {!s.asks && s.kept && t`, as it was said before`}
                {!s.asks && s.mapping.kind !== 'left out' && (
                  <>
                    <Trans>
                      , days as {name(days, s.mapping.days)}, numbers as {name(decimals, s.mapping.decimal)}
                    </Trans>
                  </>
                )}
              </span>
            </span>
            <button className="btn btn-xs btn-pill" aria-label={t`How ${s.file} is read`} onClick={() => setChanging(s)}>
              {t`How it is read…`}
            </button>
          </li>
        ))}
      </ul>
      {open && (
        <Map
          key={open.file}
          shape={open}
          close={() => setChanging(undefined)}
          done={() => {
            setChanging(undefined);
            again();
          }}
        />
      )}
    </>
  );
}

const name = <T,>(of: [T, string][], value: T) => of.find(([v]) => v === value)?.[1] ?? '';

/** Says what the columns of a file are, and how it writes days and numbers. It is kept for files with the same columns. */
function Map({ shape, close, done }: { shape: Shape; close: () => void; done: () => void }) {
  const help = useQuery(questions.importColumns());
  const [mapping, setMapping] = useState(shape.mapping);
  const keep = useCommand('/api/imports/shapes', done);
  const columns = help.data?.find((k) => k.kind === mapping.kind)?.columns ?? [];
  const asOf = (header: string) =>
    mapping.columns.find((c) => c.column.trim().toLowerCase() === header.trim().toLowerCase())?.as ?? '';
  const used = new Set(shape.header.map(asOf).filter(Boolean));
  const always = (column: string) => mapping.always.find((f) => f.column === column)?.value ?? '';
  const missing = columns.filter((c) => c.required && !used.has(c.name));
  const lacks = missing.filter((c) => always(c.name).trim() === '');
  const set = (patch: Partial<Mapping>) => setMapping((was) => ({ ...was, ...patch }));
  const use = (header: string, as: string) =>
    set({
      columns: shape.header
        .filter(Boolean)
        .map((h) => ({ column: h, as: h === header ? as : asOf(h) === as && as !== '' ? '' : asOf(h) })),
    });
  const known = new Set(columns.map((c) => c.name));
  return (
    <Dialog title={t`How ${shape.file} is read`} close={close} wide="more">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep.run({
            ask: {
              header: shape.header,
              mapping: {
                ...mapping,
                columns: mapping.columns.filter((c) => c.as === '' || known.has(c.as)),
                always: mapping.always.filter((f) => known.has(f.column) && !used.has(f.column) && f.value.trim() !== ''),
              },
            },
          });
        }}
      >
        <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
          <Select label={t`It holds`} of={kinds} value={mapping.kind} set={(kind) => set({ kind })} />
          <Select label={t`Days are written`} of={days} value={mapping.days} set={(v) => set({ days: v })} />
          <Select label={t`Numbers are written`} of={decimals} value={mapping.decimal} set={(v) => set({ decimal: v })} />
        </div>
        {mapping.kind !== 'left out' && (
          <div className="mt-3 max-h-[46vh] overflow-auto">
            <table className="grid-table">
              <thead>
                <tr>
                  <th>{t`Column of the file`}</th>
                  <th>{t`What stands in it`}</th>
                  <th>{t`What it is`}</th>
                </tr>
              </thead>
              <tbody>
                {shape.header.map(
                  (h, i) =>
                    h && (
                      <tr key={h}>
                        <td className="max-w-[200px] truncate font-semibold" title={h}>
                          {h}
                        </td>
                        <td className="max-w-[300px] truncate text-mute" title={shape.samples[i]?.join(', ')}>
                          {shape.samples[i]?.join(', ')}
                        </td>
                        <td>
                          <select
                            className="select select-sm w-full"
                            aria-label={t`What ${h} is`}
                            value={known.has(asOf(h)) ? asOf(h) : ''}
                            onChange={(e) => use(h, e.target.value)}
                          >
                            <option value="">{t`ignored`}</option>
                            {columns.map((c) => (
                              <option key={c.name} value={c.name}>
                                {said(c.name)}
                                {c.required ? ' *' : ''}
                              </option>
                            ))}
                          </select>
                        </td>
                      </tr>
                    ),
                )}
                {missing.map((c) => (
                  <tr key={`always ${c.name}`}>
                    <td className="late">
                      <Trans>{said(c.name)} is missing</Trans>
                    </td>
                    <td className="text-mute">{t`choose its column above, or a value for all rows`}</td>
                    <td>
                      <input
                        className="input input-sm"
                        aria-label={t`${said(c.name)} of all rows`}
                        maxLength={200}
                        value={always(c.name)}
                        onChange={(e) =>
                          set({
                            always: [
                              ...mapping.always.filter((f) => f.column !== c.name),
                              { column: c.name, value: e.target.value },
                            ],
                          })
                        }
                      />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        <div className="mt-4 flex items-center justify-end gap-2">
          <span className="mr-auto text-mute">
            {lacks.length > 0 && mapping.kind !== 'left out'
              ? t`Still missing: ${lacks.map((c) => said(c.name)).join(', ')}.`
              : t`This is kept for files with the same columns.`}
          </span>
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button className="btn btn-sm btn-primary" disabled={keep.busy || (lacks.length > 0 && mapping.kind !== 'left out')}>
            {t`Read it like this`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function Select<T extends string>({
  label,
  of,
  value,
  set,
}: {
  label: string;
  of: [T, string][];
  value: T;
  set: (v: T) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <span className="text-mute">{label}</span>
      <select
        className="select select-sm"
        value={value}
        onChange={(e) => set(of.find(([v]) => v === e.target.value)?.[0] ?? value)}
      >
        {of.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}
