import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import type { Schemas } from '../../api/call';
import { plural, showNum, showSpan, showWalk } from '../../base/format';
import { Dialog } from '../../parts/Dialog';
import { Whole } from '../../parts/Whole';
import type { Floor, Wave } from './useReleasing';

export const togethers: [NonNullable<Wave['together']> | '', string, string][] = [
  ['', t`All on one list`, t`a list for each warehouse`],
  ['order', t`A list for each order`, t`picked one by one`],
  ['service', t`By service`, t`what one carrier takes is picked together`],
  ['cut_off', t`By cut-off`, t`what has to be ready at the same time of day`],
  ['zone', t`By zone`, t`orders that lie in one zone; those that lie in several by themselves`],
];

/** Which orders are picked together, on lists how large, and what is printed; with what that comes to. */
export function WaveDialog({
  floor,
  set,
  comes,
  close,
}: {
  floor: Floor;
  set: (next: Partial<Floor>) => void;
  comes?: Schemas['ReleaseEffect'];
  close: () => void;
}) {
  const { wave } = floor;
  const put = (next: Partial<Wave>) => set({ wave: { ...wave, ...next } });
  return (
    <Dialog title={t`Pick lists`} close={close} wide>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          close();
        }}
      >
        <div className="grid grid-cols-2 gap-6">
          <div className="space-y-4">
            <fieldset>
              <legend className="mb-1 text-mute">{t`Picked together`}</legend>
              {togethers.map(([value, name, means]) => (
                <label key={value} className="flex items-baseline gap-2 py-0.5">
                  <input
                    type="radio"
                    name="together"
                    className="radio radio-xs"
                    checked={(wave.together ?? '') === value}
                    onChange={() => put({ together: value || undefined })}
                  />
                  <span>
                    {name} <span className="text-small text-mute">{means}</span>
                  </span>
                </label>
              ))}
            </fieldset>
            <fieldset className="grid grid-cols-[1fr_auto] items-center gap-x-3 gap-y-1.5">
              <legend className="mb-1 text-mute">{t`At most on a list`}</legend>
              <span>{t`Orders`}</span>
              <Most label={t`Orders on a list`} value={wave.most_orders} most={1000} set={(n) => put({ most_orders: n })} />
              <span>{t`Rows`}</span>
              <Most label={t`Rows on a list`} value={wave.most_rows} most={10_000} set={(n) => put({ most_rows: n })} />
              <span>{t`Kilograms`}</span>
              <Most
                label={t`Kilograms on a list`}
                value={wave.most_weight_g && wave.most_weight_g / 1000}
                most={100_000}
                set={(n) => put({ most_weight_g: n && n * 1000 })}
              />
            </fieldset>
            <label className="flex items-baseline gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={wave.zone_by_zone ?? false}
                onChange={(e) => put({ zone_by_zone: e.target.checked || undefined })}
              />
              <span>
                {t`Split by zone`} <span className="text-small text-mute">{t`so that several people pick it at once`}</span>
              </span>
            </label>
            <fieldset>
              <legend className="mb-1 text-mute">{t`On paper`}</legend>
              <label className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={floor.print}
                  onChange={(e) => set({ print: e.target.checked })}
                />
                {t`Print the pick lists`}
              </label>
              <label className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  disabled={!floor.print}
                  checked={floor.print && floor.packing}
                  onChange={(e) => set({ packing: e.target.checked })}
                />
                {t`Print packing lists with them`}
              </label>
            </fieldset>
          </div>
          <div>
            <p className="mb-1 text-mute">{t`What that comes to`}</p>
            {comes ? (
              <>
                <table className="grid-table" aria-label={t`Pick lists to be`}>
                  <thead>
                    <tr>
                      <th>{t`At`}</th>
                      <th className="num">{t`Orders`}</th>
                      <th className="num">{t`Rows`}</th>
                      <th className="num">{t`Walk`}</th>
                      <th className="num">{t`Time`}</th>
                    </tr>
                  </thead>
                  <tbody>
                    {comes.on_lists.slice(0, mostShown).map((l, i) => (
                      <tr key={i}>
                        <td>{l.zone ? `${l.warehouse}, ${l.zone}` : l.warehouse}</td>
                        <td className="num">{showNum(l.orders)}</td>
                        <td className="num">{showNum(l.rows)}</td>
                        <td className="num">{showWalk(l.walk_cm)}</td>
                        <td className="num">{showSpan(l.seconds)}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                {comes.lists > mostShown && (
                  <p className="pt-1 text-mute">
                    <Trans>and {plural(comes.lists - mostShown, 'list')} more</Trans>
                  </p>
                )}
                <p className="mt-2">
                  <Trans>
                    {plural(comes.lists, 'pick list')}, {showWalk(comes.walk_cm)} to walk and {showSpan(comes.seconds)} of
                    picking; order by order it would be {showWalk(comes.walk_by_order_cm)}.
                  </Trans>
                </p>
              </>
            ) : (
              <p className="text-mute">{t`Choose lines to see it.`}</p>
            )}
          </div>
        </div>
        <div className="mt-4 flex justify-end">
          <button type="submit" className="btn btn-sm btn-primary">
            {t`Close`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

const mostShown = 8;

function Most({ label, value, most, set }: { label: string; value?: number; most: number; set: (n?: number) => void }) {
  return (
    <Whole
      className="qty !w-[76px]"
      label={label}
      placeholder={t`any`}
      value={value}
      most={most}
      set={(n) => set(n || undefined)}
    />
  );
}
