import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useState } from 'react';
import type { Schemas } from '../../api/call';
import { plural, showKg, showNum, showSpan, showVolume, showWalk } from '../../base/format';
import { locale } from '../../base/locale';
import { useSigned } from '../../base/session';
import { Act } from '../../parts/Act';
import { Key } from '../../parts/bits';
import { Changed } from '../../parts/grid/Changed';
import type { Grid } from '../../parts/grid/useGrid';
import { useCommand } from '../../parts/useCommand';
import { useEffectOf, type Floor, type Line, type Releasing } from './useReleasing';
import { WaveDialog } from './WaveDialog';

const hundredths = new Intl.NumberFormat(locale, { maximumFractionDigits: 1 });

/** What would go to the floor, what that takes, and the key that sends it there. */
export function ReleaseTray({
  grid,
  of,
  until,
  floor,
  set,
}: {
  grid: Grid<Line>;
  of: Releasing;
  until?: string; // the look-ahead day, if one was chosen
  floor: Floor;
  set: (next: Partial<Floor>) => void;
}) {
  const { may } = useSigned();
  const { choice, changed } = grid;
  const sum = useEffectOf(of, floor.wave);
  const release = useCommand('/api/release', of.none);
  const [arranging, setArranging] = useState(false);
  return (
    <>
      <span>
        <b>{plural(choice.size, 'line')}</b>
        {sum && t` of ${plural(sum.orders, 'order')}`}
        {sum && (
          <span className="block text-small opacity-80">
            {plural(sum.units, 'unit')}
            {sum.incomplete && <b> · {t`the bins hold fewer`}</b>}
          </span>
        )}
      </span>
      {sum && (
        <span>
          <b>{showKg(sum.weight_g)}</b>
          <span
            className="block text-small opacity-80"
            title={sum.unsized ? t`The size of ${showNum(sum.unsized)} units is not known` : undefined}
          >
            {showVolume(sum.volume_cm3)} · <Trans>{hundredths.format(sum.pallets / 100)} pallets</Trans>
          </span>
        </span>
      )}
      {changed.length > 0 ? (
        <Changed grid={grid} />
      ) : (
        sum && (
          <span>
            <b>{plural(sum.lists, 'pick list')}</b> · {showSpan(sum.seconds)}
            <span className="block text-small opacity-80">
              <Trans>
                {showWalk(sum.walk_cm)} to walk, {showWalk(sum.walk_by_order_cm)} order by order
              </Trans>
            </span>
          </span>
        )
      )}
      {sum && <CutOffs of={sum} />}
      <span className="ml-auto flex items-center gap-2">
        <button className="cursor-pointer px-1" onClick={of.none}>
          {t`Choose none`} <Key>{t`Esc`}</Key>
        </button>
        <Act keys="l" does={t`Say how pick lists are made`} look="quiet" run={() => setArranging(true)}>
          {t`Lists…`}
        </Act>
        <Act
          keys="r"
          does={t`Release the chosen lines`}
          why={may('release') ? '' : t`Releasing is for a coordinator.`}
          off={release.busy || changed.length > 0}
          run={() =>
            release.run({
              ask: {
                lines: of.lines,
                until,
                wave: floor.wave,
                print: floor.print || undefined,
                packing_lists: (floor.print && floor.packing) || undefined,
              },
            })
          }
        >
          {floor.print ? (
            <Trans>Release and print {plural(choice.size, 'line')}</Trans>
          ) : (
            <Trans>Release {plural(choice.size, 'line')}</Trans>
          )}
        </Act>
      </span>
      {arranging && <WaveDialog floor={floor} set={set} comes={sum} close={() => setArranging(false)} />}
    </>
  );
}

/** The carrier that comes first for what ships today, and whether picking ends before it does. */
function CutOffs({ of }: { of: Schemas['ReleaseEffect'] }) {
  const next = of.cut_offs.find((c) => c.left_min >= 0);
  const missed = of.cut_offs.filter((c) => c.left_min < 0);
  if (of.cut_offs.length === 0) return null;
  const all = of.cut_offs.map((c) => `${c.warehouse} ${c.service} ${c.at}: ${plural(c.lines, 'line')}`).join('\n');
  const tight = next && next.left_min * 60 < of.longest_s;
  return (
    <span title={all}>
      {next ? (
        <>
          <b>{t`${next.service} at ${next.at}`}</b>: {plural(next.lines, 'line')}
          <span className="block text-small opacity-80">
            {tight ? t`in ${showSpan(next.left_min * 60)}: too soon for the longest list` : t`in ${showSpan(next.left_min * 60)}`}
          </span>
        </>
      ) : (
        <>
          <b>
            {plural(
              missed.reduce((n, c) => n + c.lines, 0),
              'line',
            )}
          </b>
          <span className="block text-small opacity-80">{t`no carrier comes for them today any more`}</span>
        </>
      )}
    </span>
  );
}
