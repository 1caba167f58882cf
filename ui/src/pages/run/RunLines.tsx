import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useNavigate } from '@tanstack/react-router';
import { useEffect, useMemo } from 'react';
import { type Schemas } from '../../api/call';
import { ItemLink, OrderLink, Tier } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { noDay, type GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { say } from '../../base/say';

export type Shown = 'all' | 'differ' | 'lack' | 'take';
type Line = Schemas['RunLine'];

const facts: GridColumn<Line>[] = [
  {
    name: 'tier',
    title: t`Tier`,
    kind: 'number',
    group: true,
    by: (l) => l.tier,
    text: (l) => String(l.tier),
    cell: (l) => <Tier n={l.tier} />,
  },
  {
    name: 'order',
    title: t`Order`,
    kind: 'text',
    group: true,
    by: (l) => l.order,
    text: (l) => `${l.order} ${l.no}`,
    cell: (l) => (
      <>
        <OrderLink number={l.order} /> <span className="text-mute">{l.no}</span>
      </>
    ),
    beside: 8,
  },
  { name: 'customer', title: t`Customer`, kind: 'text', group: true, cut: true, by: (l) => l.customer, text: (l) => l.customer },
  {
    name: 'item',
    title: t`Item`,
    kind: 'text',
    group: true,
    cut: true,
    by: (l) => l.sku,
    text: (l) => `${l.sku} ${l.item}`,
    cell: (l) => (
      <>
        <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
      </>
    ),
  },
  { name: 'ship_by', title: t`Ship by`, kind: 'date', group: true, by: (l) => l.ship_by, text: (l) => showDay(l.ship_by) },
  {
    name: 'wanted',
    title: t`Wanted`,
    kind: 'number',
    num: true,
    by: (l) => l.wanted,
    text: (l) => showNum(l.wanted),
    sum: showNum,
  },
];

/** What each plan gives a line, when it can leave, and why no more. */
function planned(v: Schemas['RunView'], plan: number): GridColumn<Line>[] {
  const two = v.plans.length > 1;
  const leaves = (l: Line) => {
    const x = l.in[plan];
    return x?.leaves ? `${showDay(x.leaves)}${x.late ? ' · late' : ''}` : t`no supply due`;
  };
  const why = (l: Line) => ((l.in[plan]?.takes ?? 0) < l.wanted ? say(l.in[plan]?.why) : '');
  return [
    ...v.plans.map((x, i): GridColumn<Line> => ({
      name: `plan_${i + 1}`,
      title: two ? t`Plan ${i + 1}` : t`New quantity`,
      hint: x.policy,
      kind: 'number',
      num: true,
      sum: showNum,
      by: (l) => l.in[i]?.takes ?? 0,
      text: (l) => [l.in[i]?.takes ? showNum(l.in[i].takes) : '–', l.in[i]?.from].filter(Boolean).join(' '),
      cell: (l) => (
        <span className={l.differs && i === plan ? 'font-semibold text-focus' : ''}>
          {l.in[i]?.takes ? showNum(l.in[i].takes) : '–'}
          {l.in[i]?.from && <span className="text-mute"> {l.in[i].from}</span>}
        </span>
      ),
    })),
    {
      name: 'leaves',
      title: t`Ships on`,
      kind: 'date',
      group: true,
      named: (day) => (day === noDay ? t`no supply due` : undefined),
      by: (l) => l.in[plan]?.leaves ?? noDay,
      text: leaves,
      cell: (l) => <span className={l.in[plan]?.late ? 'late' : ''}>{leaves(l)}</span>,
      beside: 6,
    },
    ...(two
      ? []
      : [
          {
            name: 'why',
            title: t`Why no more`,
            cut: true,
            text: why,
            cell: (l: Line) => <span className="text-mute">{why(l)}</span>,
          },
        ]),
  ];
}

const idOf = (l: Line) => String(l.line);

/** Line by line: what each plan gives it, when it can leave, and why no more. */
export function RunLines({
  v,
  lines,
  plan,
  show,
  setShow,
  focus,
}: {
  v: Schemas['RunView'];
  lines: Line[];
  plan: number;
  show: Shown;
  setShow: (s: Shown) => void;
  /** Is told which line has the focus. */
  focus: (line: Line | undefined) => void;
}) {
  const two = v.plans.length > 1;
  const p = v.plans[plan];
  const columns = useMemo(() => [...facts, ...planned(v, plan)], [v, plan]);
  const grid = useGrid<Line>({ list: 'run lines', one: 'line', rows: lines, columns, idOf });
  const row = grid.beside.row;
  useEffect(() => focus(row), [row, focus]);
  const go = useNavigate();
  const kinds: [Shown, string][] = [
    ['all', t`All · ${showNum(v.count)}`],
    ...(two ? ([['differ', t`Differ · ${showNum(v.differ)}`]] as [Shown, string][]) : []),
    ['lack', t`Short · ${showNum(p?.lacks ?? 0)}`],
    ['take', t`Allocated · ${showNum(p?.takes ?? 0)}`],
  ];
  return (
    <>
      <div className="mb-1 flex items-center gap-2">
        {kinds.map(([k, text]) => (
          <button key={k} className="btn btn-xs btn-pill" aria-pressed={show === k} onClick={() => setShow(k)}>
            {text}
          </button>
        ))}
        {v.count > v.lines.length && (
          <span className="text-mute">
            <Trans>the first {plural(v.lines.length, 'line')}, those that need a look before the others</Trans>
          </span>
        )}
        <span className="ml-auto flex gap-2">
          <GroupBy grid={grid} />
          <More grid={grid} />
        </span>
      </div>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Lines of the plan`}
        open={(l) => void go({ to: '/orders/$number', params: { number: l.order } })}
        opens={t`Open the order`}
        empty={<p className="py-3 text-mute">{t`No line of this kind.`}</p>}
      />
    </>
  );
}
