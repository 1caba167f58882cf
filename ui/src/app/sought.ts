import { t } from '@lingui/core/macro';
/** What can be looked for. */
export const sought = t`Order, item, customer, pick list, shipment, tracking…`;
