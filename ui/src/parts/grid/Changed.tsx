import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { plural } from '../../base/format';
import { Act } from '../Act';
import type { Grid } from './useGrid';

/** Says in the tray how many of the chosen rows are no longer as they were chosen, and takes them as they are. */
export function Changed<T>({ grid }: { grid: Grid<T> }) {
  const { choice, changed, one } = grid;
  return (
    <span className="flex items-center gap-2">
      <Trans>
        <b>{plural(changed.length, one)}</b> changed since you chose
      </Trans>
      <Act keys="y" does={t`Take the changed rows as they are now`} look="quiet" run={() => choice.take(changed)}>
        {t`Take as they are`}
      </Act>
    </span>
  );
}
