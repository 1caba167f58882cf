/** What can be looked for. */
export const sought = 'Order, item, customer, pick list, shipment, tracking…';
