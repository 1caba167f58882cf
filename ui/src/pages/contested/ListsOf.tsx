import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link } from '@tanstack/react-router';
import type { Schemas } from '../../api/call';
import { showNum } from '../../base/format';
import { DocumentLink } from '../../parts/bits';

/** Units of a claim that are on the floor already, and where they can be recalled. */
export function ListsOf({ c }: { c: Schemas['Claim'] }) {
  return (
    <p className="mt-2">
      <Trans>{showNum(c.fixed)} on the floor, not to be moved:</Trans>{' '}
      {c.lists.length > 0 ? (
        <>
          {t`recall it first on`}{' '}
          {c.lists.map((n) => (
            <DocumentLink key={n} kind="pick list" number={n} />
          ))}
        </>
      ) : (
        <>
          <Trans>
            picked or packed already; unpack it{' '}
            <Link to="/packing" className="ref">
              at packing
            </Link>
          </Trans>
        </>
      )}
    </p>
  );
}
