import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { ItemAside } from '../../parts/asides';
import { ItemLink, Key, PageHead } from '../../parts/bits';
import { Dialog } from '../../parts/Dialog';
import { plural, showDay, showNum } from '../../base/format';
import { Choice, Find, Pager, useList } from '../../parts/list';
import { Quantity } from '../../parts/Quantity';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { MoveArrival } from '../../parts/MoveArrival';

type Inbound = Schemas['InboundView'];

/** What is expected, the earliest first; what is overdue is marked. */
export function InboundPage() {
  const [s] = useList();
  const { may } = useSigned();
  const all = s.state === 'all';
  const inbound = useQuery({
    queryKey: ['inbound', s.q, all, s.page],
    queryFn: () => ask(client.GET('/api/inbound', { params: { query: { q: s.q, all, page: s.page } } })),
    placeholderData: keepPreviousData,
  });
  const focus = useRows(inbound.data?.inbound ?? [], (n) => String(n.id));
  const [receiving, setReceiving] = useState<Inbound>();
  const [moving, setMoving] = useState<Inbound>();
  useKey('v', 'Receive it', () => setReceiving(focus.row), { enabled: may('receive') && (focus.row?.left ?? 0) > 0 });
  useKey('e', 'Expect it on another day', () => setMoving(focus.row), {
    enabled: may('move an arrival') && (focus.row?.left ?? 0) > 0,
  });
  return (
    <Page
      aside={
        focus.row ? <ItemAside sku={focus.row.sku} warehouse={focus.row.warehouse} /> : <p className="text-mute">Select a row.</p>
      }
    >
      <PageHead
        title="Inbound"
        sub={inbound.data && `${plural(inbound.data.expected, 'receipt')} expected, ${showNum(inbound.data.overdue)} overdue`}
      >
        <Choice
          name="state"
          options={[
            ['', 'Expected'],
            ['all', 'All'],
          ]}
        />
        <Find label="Reference, item, supplier…" />
      </PageHead>
      <Load of={inbound}>
        {(d) =>
          d.inbound.length === 0 ? (
            <Empty title="Nothing is expected.">
              Expected receipts come in with an{' '}
              <Link to="/import" className="ref">
                import
              </Link>
              .
            </Empty>
          ) : (
            <>
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>Due</th>
                    <th>Reference</th>
                    <th>Item</th>
                    <th>Warehouse</th>
                    <th>Supplier</th>
                    <th className="num">Expected</th>
                    <th className="num" title="Open units of the item at that warehouse">
                      Wanted
                    </th>
                    <th aria-label="What can be done" />
                  </tr>
                </thead>
                <tbody>
                  {d.inbound.map((n) => (
                    <tr key={n.id} data-row data-focus={focus.id === String(n.id)} onClick={() => focus.setFocus(String(n.id))}>
                      <td>{n.overdue ? <span className="late">{showDay(n.due)} · overdue</span> : showDay(n.due)}</td>
                      <td className="max-w-[104px] truncate font-semibold" title={n.ref}>
                        {n.ref}
                      </td>
                      <td className="max-w-[164px] truncate" title={n.item}>
                        <ItemLink sku={n.sku} /> <span className="text-mute">{n.item}</span>
                      </td>
                      <td>{n.warehouse}</td>
                      <td className="max-w-[104px] truncate text-mute" title={n.supplier}>
                        {n.supplier}
                      </td>
                      <td className="num">
                        {n.received > 0 && <span className="text-mute">{showNum(n.received)} came of </span>}
                        {showNum(n.qty)}
                      </td>
                      <td className="num">{n.waiting > 0 ? showNum(n.waiting) : ''}</td>
                      <td className="text-right">
                        {n.left > 0 && focus.id === String(n.id) && (
                          <button
                            className="pill mr-2"
                            disabled={!may('move an arrival')}
                            title={may('move an arrival') ? undefined : 'for a coordinator'}
                            onClick={() => setMoving(n)}
                          >
                            Reschedule <Key>E</Key>
                          </button>
                        )}
                        {n.left > 0 && (
                          <button
                            className="pill"
                            disabled={!may('receive')}
                            title={may('receive') ? undefined : 'for the floor or a coordinator'}
                            onClick={(e) => {
                              e.stopPropagation();
                              focus.setFocus(String(n.id));
                              setReceiving(n);
                            }}
                          >
                            Receive {focus.id === String(n.id) && <Key>V</Key>}
                          </button>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Pager page={d.page} pages={d.pages} total={d.total} what="receipts" />
            </>
          )
        }
      </Load>
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
            <input className="field w-[120px]" value={bin} onChange={(e) => setBin(e.target.value)} placeholder="no bin set" />
          </label>
        </div>
        <p className="mt-2 text-mute">{qty < n.left ? `${plural(n.left - qty, 'unit')} stay expected.` : 'That is all of it.'}</p>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="act" onClick={close}>
            Cancel
          </button>
          <button className="act act-main" disabled={qty === 0 || receive.busy}>
            Receive {showNum(qty)}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
