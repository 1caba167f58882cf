import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link } from '@tanstack/react-router';
import { useMemo, useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { say } from '../../base/say';
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
import { TrailLink } from '../../parts/TrailLink';

type Inbound = Schemas['InboundView'];

const facts: GridColumn<Inbound>[] = [
  {
    name: 'due',
    title: t`Due`,
    kind: 'date',
    group: true,
    text: (n) => showDay(n.due) + (n.overdue ? ' · overdue' : ''),
    cell: (n) =>
      n.overdue ? (
        <span className="late">
          <Trans>{showDay(n.due)} · overdue</Trans>
        </span>
      ) : (
        showDay(n.due)
      ),
    beside: 6,
  },
  {
    name: 'ref',
    title: t`Reference`,
    kind: 'text',
    group: true,
    cut: true,
    text: (n) => n.ref,
    cell: (n) => <b className="font-semibold">{n.ref}</b>,
    beside: 6,
  },
  {
    name: 'item',
    title: t`Item`,
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
  { name: 'warehouse', title: t`Warehouse`, kind: 'text', group: true, text: (n) => n.warehouse },
  {
    name: 'supplier',
    title: t`Supplier`,
    kind: 'text',
    group: true,
    cut: true,
    text: (n) => n.supplier,
    cell: (n) => <span className="text-mute">{n.supplier}</span>,
  },
  {
    name: 'qty',
    title: t`Expected`,
    kind: 'number',
    num: true,
    text: (n) => (n.received > 0 ? t`${showNum(n.received)} came of ` : '') + showNum(n.qty),
    cell: (n) => (
      <>
        {n.received > 0 && (
          <span className="text-mute">
            <Trans>{showNum(n.received)} came of</Trans>{' '}
          </span>
        )}
        {showNum(n.qty)}
      </>
    ),
    sum: showNum,
    file: ['qty', 'received', 'left'],
  },
  {
    name: 'waiting',
    title: t`Wanted`,
    kind: 'number',
    num: true,
    hint: t`Open units of the item at that warehouse`,
    text: (n) => (n.waiting > 0 ? showNum(n.waiting) : ''),
  },
  { name: 'kind', title: t`Kind`, kind: 'text', group: true, aside: true, text: (n) => n.kind },
  { name: 'left', title: t`Still expected`, kind: 'number', num: true, aside: true, text: (n) => showNum(n.left), sum: showNum },
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
        hint: t`What can be done`,
        width: 112,
        text: () => '',
        focusCell: (n, focused) =>
          n.left > 0 &&
          receives && (
            <button className="btn btn-xs btn-pill" onClick={() => setReceiving(n)}>
              {t`Receive`} {focused && <Key>V</Key>}
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
  useKey('v', t`Receive it`, () => setReceiving(row), { enabled: may('receive') && left });
  useKey('e', t`Expect it on another day`, () => setMoving(row), { enabled: may('move an arrival') && left });
  return (
    <Page
      fill
      aside={
        row ? (
          <>
            {left && may('move an arrival') && (
              <p className="mb-3">
                <button className="btn btn-sm" aria-keyshortcuts="E" onClick={() => setMoving(row)}>
                  <Trans>Reschedule {row.ref}</Trans> <Key>E</Key>
                </button>
              </p>
            )}
            {left && !may('move an arrival') && <p className="mb-3 text-mute">{t`Rescheduling is for a coordinator.`}</p>}
            {say(row.note) && <p className="mb-3 text-mute">{say(row.note)}</p>}
            {row.received > 0 && (
              <p className="mb-3">
                <TrailLink only={[`receipt=${row.ref}`]}>{t`What has come of it`}</TrailLink>
              </p>
            )}
            <ItemAside sku={row.sku} warehouse={row.warehouse} />
          </>
        ) : (
          <p className="text-mute">{t`Select a row.`}</p>
        )
      }
    >
      <PageHead title={t`Inbound`} sub={<Found grid={grid} />}>
        <Choice
          name="state"
          options={[
            ['', t`Expected`],
            ['overdue', t`Overdue`],
            ['all', t`All`],
          ]}
        />
        <GroupBy grid={grid} />
        <Find label={t`Reference, item, supplier…`} />
        <Link to="/receive" className="btn btn-sm">
          {t`By scanning`}
        </Link>
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Expected receipts`}
        open={(n) => setReceiving(n)}
        opens={t`Receive it`}
        empty={
          <Empty title={t`Nothing is expected.`}>
            <Trans>
              Expected receipts come in with an{' '}
              <Link to="/import" className="ref">
                import
              </Link>
              .
            </Trans>
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
  const [lot, setLot] = useState('');
  const [why, setWhy] = useState('');
  const [last, setLast] = useState(false);
  const asks = qty > n.left || (last && qty < n.left);
  const ready = qty > 0 && (!asks || why.trim() !== '') && (!n.by_lots || lot.trim() !== '');
  const receive = useCommand('/api/receive', close);
  const run = () =>
    ready &&
    receive.run({
      ask: {
        inbound: n.id,
        qty,
        bin: bin.trim() || undefined,
        last: last || undefined,
        why: asks ? why.trim() : undefined,
        seen: n.received + 1,
        lots: n.by_lots ? [{ lot: lot.trim(), qty }] : undefined,
      },
    });
  return (
    <Dialog title={t`Receive ${n.ref}`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          run();
        }}
      >
        <p>
          <Trans>
            <b>{n.sku}</b> {n.item}, at {n.warehouse}
          </Trans>
        </p>
        <div className="mt-3 flex items-start gap-4">
          <label>
            <span className="block text-mute">{t`Units that arrived`}</span>
            <Quantity label={t`Units that arrived`} value={qty} most={1_000_000_000} set={setQty} enter={run} />
            <span className="ml-2 text-mute">
              <Trans>of {showNum(n.left)}</Trans>
            </span>
          </label>
          <label>
            <span className="block text-mute">{t`Put into bin`}</span>
            <input
              className="input input-sm w-[120px]"
              value={bin}
              onChange={(e) => setBin(e.target.value)}
              placeholder={t`no bin set`}
            />
          </label>
          {n.by_lots && (
            <label>
              <span className="block text-mute">{t`Lot`}</span>
              <input className="input input-sm w-[110px]" value={lot} maxLength={40} onChange={(e) => setLot(e.target.value)} />
            </label>
          )}
        </div>
        {qty < n.left && (
          <label className="mt-2 flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-xs" checked={last} onChange={(e) => setLast(e.target.checked)} />
            {t`Nothing more comes`}
          </label>
        )}
        {asks ? (
          <label className="mt-2 block">
            <span className="text-mute">{qty > n.left ? t`Why did more come?` : t`Why does the rest not come?`}</span>
            <input
              className="input input-sm mt-1 w-full"
              maxLength={500}
              list="receipts"
              value={why}
              onChange={(e) => setWhy(e.target.value)}
            />
            <datalist id="receipts">
              {[t`The supplier sent more`, t`The supplier sent fewer`, t`The rest came broken and went back`].map((x) => (
                <option key={x} value={x} />
              ))}
            </datalist>
          </label>
        ) : (
          <p className="mt-2 text-mute">
            {qty < n.left ? t`Still expected then: ${plural(n.left - qty, 'unit')}.` : t`That is all of it.`}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button className="btn btn-sm btn-primary" disabled={!ready || receive.busy}>
            <Trans>Receive {showNum(qty)}</Trans>
          </button>
        </div>
      </form>
    </Dialog>
  );
}
