import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { flushSync } from 'react-dom';
import type { Dispatch, KeyboardEvent, RefObject, SetStateAction } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { useToasts } from '../../base/toasts';
import { Fault } from '../../parts/bits';
import { Combo } from '../../parts/Combo';
import { showAmount, showDate, showDay, showNum } from '../../base/format';
import { useSought } from '../../parts/useSought';
import { readDecimal, writeDecimal } from '../../base/decimal';
import { readWhole } from '../../base/whole';
import { Cell } from './Cell';
import { isBlank, isFilled, newLine, unfound, type LineView, type Typed, type View } from './draft';
import type { Mode } from './draft';
import { say } from '../../base/say';

type Hit = Schemas['ItemHit'];

function readPrice(text: string) {
  const n = readDecimal(text, 2);
  return n === undefined ? { why: t`“${text.trim()}” is not a price: digits, and at most two after the point.` } : { n };
}

function readDiscount(text: string) {
  const n = readDecimal(text, 2);
  return n === undefined || n > 10_000 ? { why: t`“${text.trim()}” is not a discount: type 0 to 100 per cent.` } : { n };
}

/** Takes the cursor to a field of the rows: at once, so that no key that follows is lost. */
function jump(row: number, column: string) {
  const field = () => document.querySelector<HTMLInputElement>(`[data-at="${row}-${column}"]`);
  const there = field();
  if (!there) return void setTimeout(() => field()?.focus(), 0);
  there.focus();
}

/**
 * The rows of an order as they are typed: item, quantity, Enter, and the next. Beside each what
 * is free, what comes next, and when it is there.
 */
export function Grid({
  mode,
  lines,
  setLines,
  view,
  focus,
  setFocus,
  patch,
  first,
  start,
}: {
  mode: Mode['kind'];
  lines: Typed[];
  setLines: Dispatch<SetStateAction<Typed[]>>;
  view?: View;
  focus: number;
  setFocus: (key: number) => void;
  patch: (key: number, p: Partial<Typed>) => void;
  first: RefObject<HTMLInputElement | null>;
  start: boolean;
}) {
  const filled = lines.filter(isFilled);
  const { tell } = useToasts();
  const remove = (i: number) => {
    const l = lines[i];
    if (!l) return;
    if (l.line) patch(l.key, { qty: 0 });
    else if (lines.length > 1) setLines((was) => was.filter((x) => x.key !== l.key));
    jump(Math.min(i, lines.length - 2), 'qty');
  };
  const paste = async (i: number, text: string) => {
    try {
      const got = await ask(client.POST('/api/paste', { body: { text } }));
      setLines((was) => [
        ...was.slice(0, i),
        ...got.map((g) => newLine({ sku: g.sku, qty: g.qty })),
        newLine(),
        ...was.slice(i).filter((l) => l.sku !== '' || l.sought !== undefined),
      ]);
      jump(i + got.length, 'item');
    } catch (e) {
      tell({ text: e instanceof Error ? e.message : String(e), bad: true });
    }
  };
  const keys = (i: number, column: string) => (e: KeyboardEvent) => {
    if (e.ctrlKey && (e.key === 'Delete' || e.key === 'Backspace')) remove(i);
    else if (e.key === 'ArrowDown') jump(Math.min(i + 1, lines.length - 1), column);
    else if (e.key === 'ArrowUp') jump(Math.max(i - 1, 0), column);
    else if (e.key === 'Enter' && !e.ctrlKey) {
      if (column === 'item') jump(i, 'qty');
      else if (lines[i + 1]?.line || mode === 'accept') jump(Math.min(i + 1, lines.length - 1), 'qty');
      else jump(i + 1, 'item');
    } else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <table className="grid-table entry table-fixed" aria-label={t`Lines`}>
      <thead>
        <tr>
          <th className="w-[28px]" aria-label={t`Line`} />
          <th>{t`Item`}</th>
          <th className="num w-[46px]">{t`Units`}</th>
          <th className="w-[70px]">{t`Warehouse`}</th>
          <th className="num w-[75px]">{t`Price`}</th>
          <th className="num wrap w-[60px]">{t`Discount %`}</th>
          <th className="num w-[78px]">{t`Value`}</th>
          <th className="num w-[100px]">{t`Free`}</th>
          <th className="w-[82px]">{t`Next arrival`}</th>
          <th className="w-[180px]">{t`Arrives`}</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((l, i) => (
          <Row
            key={l.key}
            i={i}
            mode={mode}
            l={l}
            v={view?.lines[filled.indexOf(l)]?.sku === l.sku ? view.lines[filled.indexOf(l)] : undefined}
            view={view}
            wrong={view?.missing.find((m) => m.row >= 0 && m.row === filled.indexOf(l))}
            focused={l.key === focus}
            focus={() => setFocus(l.key)}
            patch={(p) => patch(l.key, p)}
            keys={(column) => keys(i, column)}
            paste={(text) => void paste(i, text)}
            input={i === 0 ? first : undefined}
            start={start && i === (mode === 'new' ? lines.length - 1 : 0)}
          />
        ))}
      </tbody>
    </table>
  );
}

function Row({
  i,
  mode,
  l,
  v,
  view,
  wrong,
  focused,
  focus,
  patch,
  keys,
  paste,
  input,
  start,
}: {
  i: number;
  mode: Mode['kind'];
  l: Typed;
  v?: LineView;
  view?: View;
  wrong?: Schemas['DraftFault'];
  focused: boolean;
  focus: () => void;
  patch: (p: Partial<Typed>) => void;
  keys: (column: string) => (e: KeyboardEvent) => void;
  paste: (text: string) => void;
  input?: RefObject<HTMLInputElement | null>;
  start: boolean;
}) {
  const blank = isBlank(l);
  const fixed = l.line !== undefined || mode === 'accept';
  const amiss = l.unfound ?? (wrong && say(wrong.said));
  return (
    <tr data-row data-focus={focused} onFocus={focus} onClick={focus}>
      <td className="read text-mute">{blank ? '' : (l.line ?? i + 1)}</td>
      <td>
        {fixed ? (
          <span className="block truncate px-1.5" title={v?.item}>
            <b>{l.sku}</b> <span className="text-mute">{v?.item}</span>
          </span>
        ) : (
          <ItemCell
            i={i}
            l={l}
            v={v}
            warehouse={v?.warehouse ?? view?.warehouse ?? ''}
            wrong={wrong?.field === 'sku'}
            patch={patch}
            keys={keys('item')}
            paste={paste}
            input={input}
            start={start}
          />
        )}
      </td>
      <td>
        <Cell
          label={t`Quantity, line ${i + 1}`}
          at={`${i}-qty`}
          value={l.qty || (blank ? undefined : 0)}
          read={(text) => readWhole(text)}
          show={String}
          set={(n) => patch({ qty: n ?? 0 })}
          keys={keys('qty')}
          wrong={wrong?.field === 'qty'}
        />
      </td>
      <td>
        {!blank && (
          <select
            className="cell appearance-none !px-1"
            aria-label={t`From, line ${i + 1}`}
            data-at={`${i}-from`}
            value={v?.warehouse ?? l.warehouse ?? ''}
            onChange={(e) => patch({ warehouse: e.target.value })}
          >
            {!v?.warehouse && <option value="" />}
            {view?.warehouses.map((w) => (
              <option key={w}>{w}</option>
            ))}
          </select>
        )}
      </td>
      <td>
        {!blank && (
          <Cell
            label={t`Price, line ${i + 1}`}
            at={`${i}-price`}
            value={l.list_minor ?? v?.list_minor}
            read={readPrice}
            show={(n) => writeDecimal(n, 2)}
            set={(n) => patch({ list_minor: n })}
            keys={keys('price')}
            disabled={mode === 'accept'}
            empty
          />
        )}
      </td>
      <td>
        {!blank && (
          <Cell
            label={t`Discount in per cent, line ${i + 1}`}
            at={`${i}-less`}
            value={l.discount_bp ?? v?.discount_bp}
            read={readDiscount}
            show={(n) => writeDecimal(n, 2, undefined, 0)}
            set={(n) => patch({ discount_bp: n })}
            keys={keys('less')}
            disabled={mode === 'accept'}
            empty
          />
        )}
      </td>
      <td className="read num truncate">
        {v && (v.data_fault ? <Fault>{v.data_fault}</Fault> : showAmount(v.value_minor, view?.currency ?? ''))}
      </td>
      <td
        className="read num"
        title={
          v ? t`${v.on_hand} on hand, ${v.spoken} of what is free promised to others, ${v.elsewhere} free elsewhere` : undefined
        }
      >
        {v?.item && (
          <>
            {v.spoken > 0 ? t`${showNum(v.unspoken)} of ${showNum(v.free)}` : showNum(v.free)}
            {v.elsewhere > 0 && (
              <span className="text-mute" title={t`free elsewhere`}>
                {' '}
                +{showNum(v.elsewhere)}
              </span>
            )}
          </>
        )}
      </td>
      <td className="read">
        {v?.item &&
          (v.next ? (
            <>
              {showNum(v.next.qty)} {v.next.overdue ? <span className="late">{t`late`}</span> : showDate(v.next.due)}
            </>
          ) : (
            <span className="text-mute">{t`none`}</span>
          ))}
      </td>
      <td className="read truncate">
        {amiss ? (
          <span className="late" title={amiss}>
            {amiss}
          </span>
        ) : (
          v && <There v={v} wanted={view?.wanted ?? ''} />
        )}
      </td>
    </tr>
  );
}

function ItemCell({
  i,
  l,
  v,
  warehouse,
  wrong,
  patch,
  keys,
  paste,
  input,
  start,
}: {
  i: number;
  l: Typed;
  v?: LineView;
  warehouse: string;
  wrong: boolean;
  patch: (p: Partial<Typed>) => void;
  keys: (e: KeyboardEvent) => void;
  paste: (text: string) => void;
  input?: RefObject<HTMLInputElement | null>;
  start: boolean;
}) {
  const taken = (sku: string): Partial<Typed> => ({
    ...(sku !== l.sku ? { sku, list_minor: undefined, discount_bp: undefined } : {}),
    sought: undefined,
    unfound: undefined,
  });
  const findKey = t`items ${warehouse}`;
  const find = (q: string) => ask(client.GET('/api/find-items', { params: { query: { q, warehouse } } }));
  const silent = useSought(l.unfound ? undefined : l.sought, findKey, find, (hit) =>
    patch(hit ? taken(hit.sku) : { unfound: unfound('item', l.sought ?? '') }),
  );
  return (
    <span className="block" data-wrong={wrong || l.unfound !== undefined}>
      <Combo<Hit>
        label={t`Item, line ${i + 1}`}
        className="cell"
        at={`${i}-item`}
        placeholder={l.sku === '' ? t`Part of a number or name` : undefined}
        chosen={l.sought ?? (v?.item ? `${l.sku} · ${v.item}` : l.sku)}
        findKey={findKey}
        find={find}
        idOf={(h) => h.sku}
        row={(h) => (
          <>
            <span className="w-24 shrink-0 truncate font-semibold">{h.sku}</span>
            <span className="min-w-0 flex-1 truncate text-mute">{h.name}</span>
            <span className="shrink-0">
              <Trans>{showNum(h.free)} free</Trans>
              {h.elsewhere > 0 && <span className="text-mute"> +{showNum(h.elsewhere)}</span>}
            </span>
          </>
        )}
        listWidth={460}
        choose={(sku) => {
          flushSync(() => patch(taken(sku)));
          if (sku) jump(i, 'qty');
        }}
        seek={(q) => {
          flushSync(() => patch({ ...taken(''), sought: q }));
          jump(i, 'qty');
        }}
        stay
        otherKey={keys}
        paste={(e) => {
          const text = e.clipboardData.getData('text/plain');
          if (!/[\t\n;]/.test(text.trim())) return;
          e.preventDefault();
          paste(text);
        }}
        input={input}
        start={start}
      />
      {silent && <span className="late block truncate px-1.5">{silent.message}</span>}
    </span>
  );
}

/** When it is there, as short as can be. */
function There({ v, wanted }: { v: LineView; wanted: string }) {
  if (!v.item || v.qty === 0) return null;
  const told =
    v.told && v.late ? (
      <span className="text-mute">
        {' '}
        <Trans>told {showDay(v.told)}</Trans>
      </span>
    ) : null;
  if (v.parts.length === 0) {
    if (v.how === 'none' && v.earliest) {
      return (
        <span className={v.late ? 'late' : 'text-mute'}>
          <Trans>could be {showDay(v.earliest)}</Trans>
        </span>
      );
    }
    return v.short > 0 || !v.earliest ? (
      <span className="late">{t`no supply due`}</span>
    ) : (
      <span className="text-mute">{showDay(v.earliest)}</span>
    );
  }
  const parts = v.parts.map((p, i) => ({ qty: p.qty, day: v.arrives[i] ?? '' }));
  const late = parts.filter((p) => p.day > wanted);
  const only = parts.length === 1 && v.short === 0;
  const words = parts.map((p) => t`${showNum(p.qty)} on ${showDay(p.day)}`).join(', ');
  if (!v.late && only) return <span title={words}>{showDay(parts[0]?.day ?? '')}</span>;
  return (
    <span title={v.short > 0 ? t`${words}; for ${showNum(v.short)} no supply is due` : words}>
      {v.in_time > 0 && t`${showNum(v.in_time)} in time`}
      {v.in_time > 0 && v.late && ', '}
      {v.late && (
        <span className="late">
          {late.length > 0 &&
            (only
              ? t`late: ${showDay(late[0]?.day ?? '')}`
              : t`${showNum(late[0]?.qty ?? 0)} late: ${showDate(late[0]?.day ?? '')}`)}
          {late.slice(1).map((p) => `, ${showNum(p.qty)}: ${showDate(p.day)}`)}
          {v.short > 0 && t`${late.length > 0 ? ', ' : ''}${showNum(v.short)} no day`}
        </span>
      )}
      {told}
    </span>
  );
}
