import { Link } from '@tanstack/react-router';
import { useMemo, useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { ItemAside } from '../../parts/asides';
import { ItemLink, Key, PageHead } from '../../parts/bits';
import { Dialog } from '../../parts/Dialog';
import { plural, showDay, showNum } from '../../base/format';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { Quantity } from '../../parts/Quantity';
import { Empty } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { MoveArrival } from '../../parts/MoveArrival';

type Inbound = Schemas['InboundView'];

const facts: GridColumn<Inbound>[] = [
  {
    name: 'due',
    title: 'Due',
    kind: 'date',
    group: true,
    text: (n) => showDay(n.due) + (n.overdue ? ' · overdue' : ''),
    cell: (n) => (n.overdue ? <span className="late">{showDay(n.due)} · overdue</span> : showDay(n.due)),
    beside: 6,
  },
  {
    name: 'ref',
    title: 'Reference',
    kind: 'text',
    group: true,
    cut: true,
    text: (n) => n.ref,
    cell: (n) => <b className="font-semibold">{n.ref}</b>,
    beside: 6,
  },
  {
    name: 'item',
    title: 'Item',
    kind: 'text',
    group: true,
    cut: true,
    text: (n) => `${n.sku} ${n.item}`,
    cell: (n) => (
      <>
        <ItemLink sku={n.sku} /> <span className="text-mute">{n.item}</span>
      </>
    ),
    beside: 8,
  },
  { name: 'warehouse', title: 'Warehouse', kind: 'text', group: true, text: (n) => n.warehouse },
  {
    name: 'supplier',
    title: 'Supplier',
    kind: 'text',
    group: true,
    cut: true,
    text: (n) => n.supplier,
    cell: (n) => <span className="text-mute">{n.supplier}</span>,
  },
  {
    name: 'qty',
    title: 'Expected',
    kind: 'number',
    num: true,
    text: (n) => (n.received > 0 ? `${showNum(n.received)} came of ` : '') + showNum(n.qty),
    cell: (n) => (
      <>
        {n.received > 0 && <span className="text-mute">{showNum(n.received)} came of </span>}
        {showNum(n.qty)}
      </>
    ),
    sum: showNum,
    file: ['qty', 'received', 'left'],
  },
  {
    name: 'waiting',
    title: 'Wanted',
    kind: 'number',
    num: true,
    hint: 'Open units of the item at that warehouse',
    text: (n) => (n.waiting > 0 ? showNum(n.waiting) : ''),
  },
  { name: 'kind', title: 'Kind', kind: 'text', group: true, aside: true, text: (n) => n.kind },
  { name: 'left', title: 'Still expected', kind: 'number', num: true, aside: true, text: (n) => showNum(n.left), sum: showNum },
];

const idOf = (n: Inbound) => String(n.id);

/** What is expected, the earliest first; what is overdue is marked. */
export function InboundPage() {
  const { may } = useSigned();
  const [receiving, setReceiving] = useState<Inbound>();
  const [moving, setMoving] = useState<Inbound>();
  const receives = may('receive');
  const columns = useMemo<GridColumn<Inbound>[]>(
    () => [
      ...facts,
      {
        name: 'does',
        title: '',
        hint: 'What can be done',
        width: 112,
        text: () => '',
        cell: (n, focused) =>
          n.left > 0 &&
          receives && (
            <button className="btn btn-xs btn-pill" onClick={() => setReceiving(n)}>
              Receive {focused && <Key>V</Key>}
            </button>
          ),
      },
    ],
    [receives],
  );
  const grid = useGrid<Inbound>({
    list: 'inbound',
    one: 'receipt',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/inbound', { params: { query: q }, signal }));
      return { rows: d.inbound, next: d.next };
    },
    columns,
    idOf,
    scope: { state: useList()[0].state },
  });
  const row = grid.row;
  const left = row !== undefined && row.left > 0;
  useKey('v', 'Receive it', () => setReceiving(row), { enabled: may('receive') && left });
  useKey('e', 'Expect it on another day', () => setMoving(row), { enabled: may('move an arrival') && left });
  return (
    <Page
      fill
      aside={
        row ? (
          <>
            {left && may('move an arrival') && (
              <p className="mb-3">
                <button className="btn btn-sm" aria-keyshortcuts="E" onClick={() => setMoving(row)}>
                  Reschedule {row.ref} <Key>E</Key>
                </button>
              </p>
            )}
            {left && !may('move an arrival') && <p className="mb-3 text-mute">Rescheduling is for a coordinator.</p>}
            <ItemAside sku={row.sku} warehouse={row.warehouse} />
          </>
        ) : (
          <p className="text-mute">Select a row.</p>
        )
      }
    >
      <PageHead title="Inbound" sub={<Found grid={grid} />}>
        <Choice
          name="state"
          options={[
            ['', 'Expected'],
            ['overdue', 'Overdue'],
            ['all', 'All'],
          ]}
        />
        <GroupBy grid={grid} />
        <Find label="Reference, item, supplier…" />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label="Expected receipts"
        open={(n) => setReceiving(n)}
        opens="Receive it"
        empty={
          <Empty title="Nothing is expected.">
            Expected receipts come in with an{' '}
            <Link to="/import" className="ref">
              import
            </Link>
            .
          </Empty>
        }
      />
      {moving && <MoveArrival n={moving} close={() => setMoving(undefined)} />}
      {receiving && <Receive n={receiving} close={() => setReceiving(undefined)} />}
    </Page>
  );
}

function Receive({ n, close }: { n: Inbound; close: () => void }) {
  const [qty, setQty] = useState(n.left);
  const [bin, setBin] = useState(n.bin);
  const receive = useCommand('/api/receive', close);
  const run = () => qty > 0 && receive.run({ ask: { inbound: n.id, qty, bin: bin.trim() || undefined, seen: n.received + 1 } });
  return (
    <Dialog title={`Receive ${n.ref}`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          run();
        }}
      >
        <p>
          <b>{n.sku}</b> {n.item}, at {n.warehouse}
        </p>
        <div className="mt-3 flex items-end gap-4">
          <label>
            <span className="block text-mute">Units that arrived</span>
            <Quantity label="Units that arrived" value={qty} most={n.left} set={setQty} enter={run} />
            <span className="ml-2 text-mute">of {showNum(n.left)}</span>
          </label>
          <label>
            <span className="block text-mute">Put into bin</span>
            <input
              className="input input-sm w-[120px]"
              value={bin}
              onChange={(e) => setBin(e.target.value)}
              placeholder="no bin set"
            />
          </label>
        </div>
        <p className="mt-2 text-mute">{qty < n.left ? `${plural(n.left - qty, 'unit')} stay expected.` : 'That is all of it.'}</p>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            Cancel
          </button>
          <button className="btn btn-sm btn-primary" disabled={qty === 0 || receive.busy}>
            Receive {showNum(qty)}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
