import { type Schemas } from '../../api/call';
import { ItemLink, OrderLink, Tier } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { type useRows } from '../../parts/rows';

export type Shown = 'all' | 'differ' | 'lack' | 'take';
type Line = Schemas['RunLine'];

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
  focus: ReturnType<typeof useRows<Line>>;
}) {
  const two = v.plans.length > 1;
  const p = v.plans[plan]!;
  const kinds: [Shown, string][] = [
    ['all', `All · ${showNum(v.count)}`],
    ...(two ? ([['differ', `Differ · ${showNum(v.differ)}`]] as [Shown, string][]) : []),
    ['lack', `Short · ${showNum(p.lacks)}`],
    ['take', `Allocated · ${showNum(p.takes)}`],
  ];
  return (
    <>
      <div className="mb-1 flex items-center gap-2">
        {kinds.map(([k, text]) => (
          <button key={k} className="pill" aria-pressed={show === k} onClick={() => setShow(k)}>
            {text}
          </button>
        ))}
        {v.count > v.lines.length && (
          <span className="text-mute">the first {plural(v.lines.length, 'line')}, those that need a look before the others</span>
        )}
      </div>
      <table className="grid-table">
        <thead>
          <tr>
            <th>Tier</th>
            <th>Order</th>
            <th>Customer</th>
            <th>Item</th>
            <th>Ship by</th>
            <th className="num">Wanted</th>
            {v.plans.map((x, i) => (
              <th key={x.key} className="num" title={x.policy}>
                {two ? `Plan ${i + 1}` : 'New quantity'}
              </th>
            ))}
            <th>Ships on</th>
            {!two && <th>Why no more</th>}
          </tr>
        </thead>
        <tbody>
          {lines.map((l) => {
            const x = l.in[plan]!;
            return (
              <tr key={l.line} data-row data-focus={focus.id === String(l.line)} onClick={() => focus.setFocus(String(l.line))}>
                <td>
                  <Tier n={l.tier} />
                </td>
                <td>
                  <OrderLink number={l.order} /> <span className="text-mute">{l.no}</span>
                </td>
                <td className="max-w-[120px] truncate" title={l.customer}>
                  {l.customer}
                </td>
                <td className="max-w-[150px] truncate" title={l.item}>
                  <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
                </td>
                <td>{showDay(l.ship_by)}</td>
                <td className="num">{showNum(l.wanted)}</td>
                {l.in.map((y, i) => (
                  <td
                    key={i}
                    className={`num ${l.differs && i === plan ? 'font-semibold text-focus' : ''}`}
                    title={y.from || undefined}
                  >
                    {y.takes > 0 ? showNum(y.takes) : '–'}
                    {y.from && <span className="text-mute"> {y.from}</span>}
                  </td>
                ))}
                <td className={x.late ? 'late' : ''}>
                  {x.leaves ? showDay(x.leaves) : 'no supply due'}
                  {x.late && x.leaves && ' · late'}
                </td>
                {!two && (
                  <td className="max-w-[210px] truncate text-mute" title={x.why}>
                    {x.takes < l.wanted && x.why}
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
      {lines.length === 0 && <p className="py-3 text-mute">No line of this kind.</p>}
    </>
  );
}
