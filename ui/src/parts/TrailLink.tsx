import { t } from '@lingui/core/macro';
import { Link } from '@tanstack/react-router';
import type { ReactNode } from 'react';

/** Leads to every move that fits these filters: who, when, what, why, and by which document. */
export function TrailLink({ only, children, look = 'ref' }: { only: string[]; children?: ReactNode; look?: string }) {
  return (
    <Link to="/journal" search={{ state: 'all', only }} className={look}>
      {children ?? t`Trail`}
    </Link>
  );
}
