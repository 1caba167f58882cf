import { t } from '@lingui/core/macro';
import { ask, client, type Schemas } from '../../api/call';
import { showDay, showNum } from '../../base/format';
import { useNavigate } from '@tanstack/react-router';
import { DocumentLink, ItemLink, OrderLink, PageHead } from '../../parts/bits';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { oneLot } from '../../parts/lots';
import { Page } from '../../parts/Page';
import { Empty } from '../../parts/states';
import { LotBox } from './LotBox';

type Lot = Schemas['LotView'];

const places: Record<Lot['where'], string> = {
  bin: t`In a bin`,
  picked: t`Picked`,
  packed: t`Packed`,
  shipped: t`Shipped`,
  delivered: t`Delivered`,
};
const placeOf = (where: string) => places[where as Lot['where']];

/** The day of a moment, or nothing. */
const dayOf = (at: string | undefined) => (at ? showDay(at.slice(0, 10)) : '');

const columns: GridColumn<Lot>[] = [
  {
    name: 'lot',
    title: t`Lot`,
    kind: 'text',
    group: true,
    beside: 8,
    text: (l) => l.lot,
    cell: (l) => <b className={l.recalled ? 'late' : ''}>{l.lot}</b>,
  },
  { name: 'item', title: t`Item`, kind: 'text', group: true, text: (l) => l.sku, cell: (l) => <ItemLink sku={l.sku} /> },
  { name: 'warehouse', title: t`Warehouse`, kind: 'text', group: true, text: (l) => l.warehouse },
  {
    name: 'where',
    title: t`Where`,
    kind: 'text',
    group: true,
    named: placeOf,
    text: (l) => (l.to_put_back > 0 ? t`${places[l.where]}, ${showNum(l.to_put_back)} to put back` : places[l.where]),
    cell: (l) => (
      <>
        {places[l.where]}
        {l.to_put_back > 0 && <span className="late"> · {t`${showNum(l.to_put_back)} to put back`}</span>}
      </>
    ),
  },
  { name: 'qty', title: t`Units`, kind: 'number', num: true, sum: showNum, text: (l) => showNum(l.qty) },
  {
    name: 'aside',
    title: t`Set aside`,
    kind: 'number',
    num: true,
    sum: showNum,
    text: (l) => (l.aside > 0 ? showNum(l.aside) : ''),
  },
  { name: 'bin', title: t`Bin`, kind: 'text', text: (l) => l.bin || (l.where === 'bin' ? t`no bin set` : '') },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    group: true,
    text: (l) => l.order,
    cell: (l) => l.order && <OrderLink number={l.order} />,
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (l) => l.customer },
  {
    name: 'shipment',
    title: t`Shipment`,
    kind: 'text',
    group: true,
    text: (l) => l.shipment,
    cell: (l) => l.shipment && <DocumentLink kind="shipment" number={l.shipment} />,
  },
  { name: 'left', title: t`Left`, kind: 'text', group: true, text: (l) => dayOf(l.left) },
  { name: 'delivered', title: t`Delivered`, kind: 'text', group: true, aside: true, text: (l) => dayOf(l.delivered) },
  { name: 'email', title: t`Email`, kind: 'text', aside: true, cut: true, text: (l) => l.email },
  { name: 'package', title: t`Package`, kind: 'text', aside: true, text: (l) => l.package },
  {
    name: 'recalled',
    title: t`Recalled`,
    kind: 'text',
    group: true,
    aside: true,
    named: (v) => (v === 'yes' ? t`must not be sent` : t`may be sent`),
    text: (l) => (l.recalled ? t`must not be sent` : ''),
  },
];

const idOf = (l: Lot) => String(l.id);

/** Where units of lots are, and who got them. Narrowed down to one lot, it says all about that lot, and takes it back. */
export function LotsPage() {
  const { state } = useList()[0];
  const go = useNavigate();
  const grid = useGrid<Lot>({
    list: 'lots',
    one: 'place',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/lots', { params: { query: q }, signal }));
      return { rows: d.lots, next: d.next };
    },
    columns,
    idOf,
    scope: { state },
  });
  const one = oneLot(grid.search.only);
  return (
    <Page fill>
      <PageHead title={one ? t`Lot ${one.lot} of ${one.sku}` : t`Lots`} sub={<Found grid={grid} />}>
        <Choice
          name="state"
          options={[
            ['', t`All`],
            ['house', t`In the house`],
            ['recalled', t`Recalled`],
          ]}
        />
        <GroupBy grid={grid} />
        <Find label={t`Lot, item, order, customer…`} />
        <More grid={grid} />
      </PageHead>
      {one && <LotBox sku={one.sku} lot={one.lot} />}
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Lots`}
        open={(l) =>
          l.shipment
            ? void go({ to: '/shipments/$number', params: { number: l.shipment } })
            : l.order
              ? void go({ to: '/orders/$number', params: { number: l.order } })
              : void go({ to: '/items/$number', params: { number: l.sku } })
        }
        opens={t`Open the shipment, the order or the item`}
        empty={
          grid.search.q || grid.search.only ? (
            <Empty title={t`Nothing of such a lot is here, and nobody got it.`}>
              {t`Take a filter away, or look for part of a lot, an item or a customer.`}
            </Empty>
          ) : (
            <Empty title={state === 'recalled' ? t`No lot is recalled.` : t`No lot was noted yet.`}>
              {t`Items are kept by lots if the column “lots” of their file says yes. Lots are noted at receipt and at picking.`}
            </Empty>
          )
        }
      />
    </Page>
  );
}
