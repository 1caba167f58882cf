import { t } from '@lingui/core/macro';
import { useState } from 'react';
import type { Schemas } from '../../api/call';
import { readDecimal, writeDecimal } from '../../base/decimal';
import { showKg } from '../../base/format';
import { useCommand } from '../../parts/useCommand';

type Kind = Schemas['PackageKind'];

const cm = (mm: number) => writeDecimal(mm, 1, undefined, 0);
const kg = (g: number) => writeDecimal(g, 3, undefined, 0);

/** What goods are packed into: cartons and pallets, how large they are and what they carry. */
export function Packages({ of, mine }: { of: Kind[]; mine: boolean }) {
  return (
    <section aria-label={t`Cartons and pallets`}>
      <h2 className="mb-1 text-lead">{t`Cartons and pallets`}</h2>
      <p className="mb-1 text-mute">
        {t`Packages are proposed of these by room and weight. Sizes are inside; then what one weighs empty, and at most.`}
      </p>
      {mine ? (
        <>
          {of.map((k) => (
            <KindRow key={JSON.stringify(k)} of={k} />
          ))}
          <KindRow key={of.length} />
        </>
      ) : (
        of.map((k) => (
          <p key={k.code}>
            <b>{k.code}</b> {k.name}{' '}
            <span className="text-mute">
              {cm(k.length_mm)} × {cm(k.width_mm)} × {cm(k.height_mm)} cm · {t`up to ${showKg(k.most_g)}`}
            </span>
          </p>
        ))
      )}
    </section>
  );
}

/** A kind that can be changed or taken away; without one, a new one. */
function KindRow({ of: k }: { of?: Kind }) {
  const save = useCommand('/api/set-package-kind');
  const drop = useCommand('/api/drop-package-kind');
  const begin = {
    code: k?.code ?? '',
    name: k?.name ?? '',
    length: k ? cm(k.length_mm) : '',
    width: k ? cm(k.width_mm) : '',
    height: k ? cm(k.height_mm) : '',
    tare: k ? kg(k.tare_g) : '',
    most: k ? kg(k.most_g) : '',
    pallet: k?.pallet ?? false,
  };
  const [typed, setTyped] = useState(begin);
  const number = (text: string, digits: number) => readDecimal(text, digits) ?? 0;
  const next = {
    code: typed.code.trim().toUpperCase(),
    name: typed.name.trim(),
    pallet: typed.pallet || undefined,
    length_mm: number(typed.length, 1),
    width_mm: number(typed.width, 1),
    height_mm: number(typed.height, 1),
    tare_g: number(typed.tare, 3),
    most_g: number(typed.most, 3),
  };
  const whole =
    next.code !== '' && next.name !== '' && next.length_mm > 0 && next.width_mm > 0 && next.height_mm > 0 && next.most_g > 0;
  const changed = JSON.stringify(typed) !== JSON.stringify(begin);
  const what = k?.name ?? t`a new kind`;
  const field = (at: Exclude<keyof typeof typed, 'pallet'>, label: string, look: string, most = 12, short?: string) => (
    <input
      className={`input input-sm ${look}`}
      aria-label={t`${label} of ${what}`}
      placeholder={k ? undefined : (short ?? label)}
      maxLength={most}
      disabled={at === 'code' && k !== undefined}
      value={typed[at]}
      onChange={(e) => setTyped({ ...typed, [at]: e.target.value })}
    />
  );
  return (
    <form
      className="flex items-center gap-1.5 py-1"
      onSubmit={(e) => {
        e.preventDefault();
        save.run({ ask: next });
      }}
    >
      {field('code', t`Code`, 'w-[92px]')}
      {field('name', t`Name`, 'w-[136px]', 40)}
      {field('length', t`Length`, 'w-[58px]', 12, '–')}×{field('width', t`Width`, 'w-[58px]', 12, '–')}×
      {field('height', t`Height`, 'w-[58px]', 12, '–')}
      <span className="text-mute">cm</span>
      {field('tare', t`Empty`, 'w-[58px]', 12, '–')}
      <span className="text-mute">{t`to`}</span>
      {field('most', t`At most`, 'w-[66px]', 12, '–')}
      <span className="text-mute">kg</span>
      <label className="flex items-center gap-1">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={typed.pallet}
          onChange={(e) => setTyped({ ...typed, pallet: e.target.checked })}
        />
        {t`pallet`}
      </label>
      {(changed || !k) && (
        <button className="btn btn-xs" disabled={!changed || !whole || save.busy}>
          {k ? t`Save` : t`Add`}
        </button>
      )}
      {k && !changed && (
        <button
          type="button"
          className="btn btn-xs btn-pill"
          aria-label={t`Take away ${k.name}`}
          disabled={drop.busy}
          onClick={() => drop.run({ ask: { code: k.code } })}
        >
          ×
        </button>
      )}
    </form>
  );
}
