import { t } from '@lingui/core/macro';
import { showDay, showKg, showMoney, showNum, showSum } from '../../base/format';
import { say } from '../../base/say';
import { Day, ItemLink, OrderLink, Tier } from '../../parts/bits';
import type { GridColumn } from '../../parts/grid/column';
import { JourneyBar, tellCounts } from '../../parts/JourneyBar';
import { Quantity } from '../../parts/Quantity';
import { Remedy } from './Remedy';
import { useInRelease, type Line } from './useReleasing';

const yesNo: Record<string, string> = { yes: t`yes`, no: t`no` };

const facts: GridColumn<Line>[] = [
  { name: 'tier', title: t`Tier`, kind: 'number', group: true, text: (l) => String(l.tier), cell: (l) => <Tier n={l.tier} /> },
  {
    name: 'ship_by',
    title: t`Ship by`,
    kind: 'date',
    group: true,
    text: (l) => showDay(l.ship_by) + (l.late ? ' · late' : ''),
    cell: (l) => <Day iso={l.ship_by} late={l.late} />,
    beside: (l) => (l.late ? 8 : 0),
  },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    group: true,
    text: (l) => l.order,
    cell: (l) => <OrderLink number={l.order} />,
    beside: 8,
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, text: (l) => l.customer },
  {
    name: 'item',
    title: t`Item`,
    kind: 'text',
    group: true,
    cut: true,
    text: (l) => `${l.sku} ${l.item}`,
    cell: (l) => (
      <>
        <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
      </>
    ),
    beside: 8,
  },
  { name: 'warehouse', title: t`At`, kind: 'text', group: t`warehouse`, hint: t`Warehouse`, text: (l) => l.warehouse },
  {
    name: 'ordered',
    title: t`Ordered`,
    kind: 'number',
    num: true,
    aside: 'narrow',
    text: (l) => showNum(l.at.ordered),
    sum: showNum,
  },
  {
    name: 'still_due',
    title: t`Still due`,
    kind: 'number',
    num: true,
    hint: t`Units of the line that have not left`,
    text: (l) => showNum(l.still_due),
    sum: showNum,
  },
  {
    name: 'allocated',
    title: t`Alloc.`,
    hint: t`Allocated`,
    kind: 'number',
    num: true,
    text: (l) => showNum(l.at.allocated),
    sum: showNum,
  },
];

const release: GridColumn<Line> = {
  name: 'release',
  title: t`Release`,
  num: true,
  width: 76,
  field: true,
  text: (l) => showNum(l.at.allocated),
  file: [],
  cell: (l) => <Goes of={l} />,
};

const remedy: GridColumn<Line> = {
  name: 'remedy',
  title: t`What to do`,
  width: 190,
  text: () => '',
  file: ['why'],
  focusCell: (l, focused) => <Remedy of={l} focused={focused} />,
};

const more: GridColumn<Line>[] = [
  {
    name: 'ready',
    title: t`Ready`,
    num: true,
    hint: t`Open lines of its order that could go in full now, of its open lines`,
    text: (l) => `${l.ready}/${l.open_lines}`,
    file: ['order_open'],
  },
  {
    name: 'supply',
    title: t`Supply`,
    hint: t`What there is for what the line still lacks`,
    cut: true,
    text: (l) => say(l.supply),
    cell: (l) => <span className={supplyLook[l.supplied] ?? 'text-mute'}>{say(l.supply)}</span>,
    file: ['open'],
  },
  {
    name: 'progress',
    title: t`Progress`,
    width: 84,
    grows: true,
    aside: true,
    text: (l) => tellCounts(l.at),
    cell: (l) => <JourneyBar at={l.at} width="100%" of={`${l.order} line ${l.line}`} />,
    file: ['ordered', 'open', 'allocated'],
  },
  {
    name: 'completes',
    title: t`Completes its order`,
    kind: 'text',
    group: t`whether its order is completed`,
    named: (v) => yesNo[v],
    aside: true,
    hint: t`Nothing of its order is open: releasing all of it completes the order`,
    text: (l) => (l.completes ? t`yes` : t`no`),
  },
  {
    name: 'order_open',
    title: t`Open of its order`,
    kind: 'number',
    num: true,
    aside: true,
    hint: t`Units of its order that nothing is allocated for: with none, the order is completed`,
    text: (l) => showNum(l.order_open),
  },
  { name: 'open', title: t`Open`, kind: 'number', num: true, aside: true, text: (l) => showNum(l.at.open), sum: showNum },
  { name: 'service', title: t`Service`, kind: 'text', group: true, aside: true, text: (l) => l.service },
  { name: 'weight', title: t`Weight`, kind: 'weight', num: true, aside: true, text: (l) => showKg(l.weight_g), sum: showKg },
  {
    name: 'value',
    title: t`Value`,
    kind: 'money',
    num: true,
    aside: true,
    text: (l) => showMoney(l.value_minor, l.currency),
    sum: showSum,
  },
];

const supplyLook: Record<string, string | undefined> = {
  contested: 'late',
  nowhere: 'late',
  all_free: '',
  some_free: '',
  arriving: '',
};

export const columnsOf = { could: [...facts, release, ...more], kept: [...facts, remedy, ...more] };

/** How much of a line goes, if it was chosen. */
function Goes({ of: l }: { of: Line }) {
  const releasing = useInRelease();
  return (
    releasing && (
      <Quantity
        label={t`Units of ${l.order} line ${l.line} to release`}
        value={releasing.qty(l)}
        most={l.at.allocated}
        set={(n) => releasing.set(l, n)}
      />
    )
  );
}
