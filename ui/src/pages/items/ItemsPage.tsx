import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useNavigate } from '@tanstack/react-router';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { ItemAside } from '../../parts/asides';
import { ItemLink, PageHead } from '../../parts/bits';
import { showDay, showMoney, showNum } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Find } from '../../parts/list';
import { Empty } from '../../parts/states';

type Item = Schemas['ItemRow'];

const some = (n: number) => (n > 0 ? showNum(n) : '');
const units = (name: 'on_hand' | 'free' | 'open' | 'incoming', title: string): GridColumn<Item> => ({
  name,
  title,
  kind: 'number',
  num: true,
  text: (i) => (name === 'on_hand' || name === 'free' ? showNum(i[name]) : some(i[name])),
  sum: showNum,
});

const columns: GridColumn<Item>[] = [
  { name: 'sku', title: t`Item`, kind: 'text', text: (i) => i.sku, cell: (i) => <ItemLink sku={i.sku} />, beside: 8 },
  { name: 'name', title: t`Name`, kind: 'text', cut: true, text: (i) => i.name },
  {
    name: 'unit',
    title: t`Unit`,
    kind: 'text',
    group: true,
    text: (i) => i.unit,
    cell: (i) => <span className="text-mute">{i.unit}</span>,
  },
  units('on_hand', t`On hand`),
  units('free', t`Free`),
  units('open', t`Open`),
  {
    name: 'wanting',
    title: t`Wanting`,
    kind: 'number',
    num: true,
    text: (i) => (i.wanting > 0 ? t`${showNum(i.wanting)} short` : ''),
    cell: (i) =>
      i.wanting > 0 && (
        <span className="late">
          <Trans>{showNum(i.wanting)} short</Trans>
        </span>
      ),
    sum: showNum,
    hint: t`By how much the open units exceed what is free`,
    beside: 6,
  },
  units('incoming', t`On its way`),
  {
    name: 'next_due',
    title: t`Next arrival`,
    kind: 'date',
    text: (i) => (i.next_due ? showDay(i.next_due) + (i.overdue ? ' · overdue' : '') : ''),
    cell: (i) =>
      i.next_due &&
      (i.overdue ? (
        <span className="late">
          <Trans>{showDay(i.next_due)} · overdue</Trans>
        </span>
      ) : (
        showDay(i.next_due)
      )),
    beside: 6,
  },
  { name: 'price', title: t`Price`, kind: 'money', num: true, aside: true, text: (i) => showMoney(i.price_minor, i.currency) },
  { name: 'currency', title: t`Currency`, kind: 'text', group: true, aside: true, text: (i) => i.currency },
  {
    name: 'lead_days',
    title: t`Lead days`,
    kind: 'number',
    group: true,
    num: true,
    aside: true,
    text: (i) => showNum(i.lead_days),
  },
];

const skuOf = (i: Item) => i.sku;

export function ItemsPage() {
  const grid = useGrid<Item>({
    list: 'items',
    one: 'item',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/items', { params: { query: q }, signal }));
      return { rows: d.items, next: d.next };
    },
    columns,
    idOf: skuOf,
  });
  const go = useNavigate();
  return (
    <Page
      fill
      aside={grid.beside.row ? <ItemAside sku={grid.beside.row.sku} /> : <p className="text-mute">{t`Select a row.`}</p>}
    >
      <PageHead title={t`Items`} sub={<Found grid={grid} />}>
        <button
          className="btn btn-xs btn-pill"
          aria-pressed={grid.search.sort === 'wanting'}
          onClick={() =>
            grid.set(grid.search.sort === 'wanting' ? { sort: undefined, down: undefined } : { sort: 'wanting', down: true })
          }
        >
          {t`Most wanting first`}
        </button>
        <GroupBy grid={grid} />
        <Find label={t`Part of a number or name…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Items`}
        open={(i) => void go({ to: '/items/$number', params: { number: i.sku } })}
        opens={t`Open the item`}
        empty={<Empty title={t`No item fits this.`}>{t`Look for part of a number or part of a name.`}</Empty>}
      />
    </Page>
  );
}
