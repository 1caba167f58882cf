import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { DayField } from '../../parts/DayField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { ItemAside } from '../../parts/asides';
import { ItemLink, Key, PageHead } from '../../parts/bits';
import { Dialog, ReasonDialog } from '../../parts/Dialog';
import { plural, showDay, showMoney, showNum, showTime } from '../../base/format';
import { Find, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { Whole } from '../../parts/Whole';
import { useCommand } from '../../parts/useCommand';

type Buy = Schemas['BuyView'];

/** What was requested to be bought, what came of it, and a file of it for whoever buys. */
export function BuyingPage() {
  const [s] = useList();
  const requests = useQuery({
    ...questions.buyRequests(s.q),
  });
  const rows = requests.data ?? [];
  const focus = useRows(rows, (b) => b.number);
  const { may } = useSigned();
  const [asking, setAsking] = useState<'' | 'confirm' | 'withdraw'>('');
  const withdraw = useCommand('/api/withdraw-buy');
  const row = focus.row;
  const settle = row?.state === 'asked' && may('settle a request to buy');
  useKey('enter', t`Confirm the request: it was ordered`, () => setAsking('confirm'), { enabled: settle });
  useKey('w', t`Withdraw the request`, () => setAsking('withdraw'), { enabled: settle });
  const waiting = rows.filter((b) => b.state === 'asked').length;
  return (
    <Page aside={row ? <ItemAside sku={row.sku} warehouse={row.warehouse} /> : <p className="text-mute">{t`Select a row.`}</p>}>
      <PageHead title={t`Requests to buy`} sub={requests.data && t`${plural(waiting, 'request')} not yet confirmed`}>
        <a className="btn btn-sm" href="/api/buy-requests.csv" download>
          {t`Save as CSV`}
        </a>
        <Find label={t`Number, item, reference…`} />
      </PageHead>
      <Load of={requests}>
        {(d) =>
          d.length === 0 ? (
            <Empty title={s.q ? t`No request has “${s.q}”.` : t`Nothing was requested.`}>
              {t`More of an item is requested on its page, with how many are lacking.`}
            </Empty>
          ) : (
            <table className="grid-table">
              <thead>
                <tr>
                  <th>{t`Request`}</th>
                  <th>{t`Item`}</th>
                  <th>{t`For`}</th>
                  <th className="num">{t`Units`}</th>
                  <th>{t`Requested`}</th>
                  <th className="num">{t`Cost`}</th>
                  <th>{t`Asked by`}</th>
                  <th>{t`What came of it`}</th>
                  <th aria-label={t`What can be done`} />
                </tr>
              </thead>
              <tbody>
                {d.map((b) => (
                  <tr key={b.number} data-row data-focus={focus.id === b.number} onClick={() => focus.setFocus(b.number)}>
                    <td className="font-semibold">{b.number}</td>
                    <td className="max-w-[220px] truncate" title={b.item}>
                      <ItemLink sku={b.sku} /> <span className="text-mute">{b.item}</span>
                    </td>
                    <td>{b.warehouse}</td>
                    <td className="num">{showNum(b.qty)}</td>
                    <td>{showDay(b.wanted)}</td>
                    <td className="num">{b.cost_minor === undefined ? '–' : showMoney(b.cost_minor, b.currency)}</td>
                    <td title={`${showTime(b.at)}${b.note ? `: ${b.note}` : ''}`}>{b.who}</td>
                    <td className="max-w-[200px] truncate">
                      <Settled b={b} />
                    </td>
                    <td className="text-right">
                      {b.state === 'asked' && may('settle a request to buy') && (
                        <button
                          className="btn btn-xs btn-pill"
                          onClick={() => {
                            focus.setFocus(b.number);
                            setAsking('confirm');
                          }}
                        >
                          {t`It was ordered…`}
                        </button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )
        }
      </Load>
      {settle && (
        <p className="mt-2 text-mute">
          <Key>{t`Enter`}</Key>{' '}
          <Trans>
            it was ordered · <Key>W</Key> withdraw
          </Trans>
        </p>
      )}
      {asking === 'confirm' && row && <Confirm b={row} close={() => setAsking('')} />}
      {asking === 'withdraw' && row && (
        <ReasonDialog
          title={t`Withdraw ${row.number}?`}
          label={t`Why is it not bought?`}
          verb={t`Withdraw it`}
          suggestions={[t`No longer needed`, t`Too dear`, t`The supplier has none`]}
          close={() => setAsking('')}
          go={(reason) => {
            setAsking('');
            withdraw.run({ ask: { number: row.number }, reason });
          }}
        />
      )}
    </Page>
  );
}

function Settled({ b }: { b: Buy }) {
  if (b.state === 'confirmed') {
    return (
      <>
        {t`expected`} {b.due && showDay(b.due)}: <b>{b.ref}</b>
      </>
    );
  }
  if (b.state === 'withdrawn')
    return (
      <span className="text-mute">
        <Trans>
          withdrawn by {b.settled_by}: {b.why}
        </Trans>
      </span>
    );
  return <span className="text-mute">{t`not yet ordered`}</span>;
}

/** That it was ordered: from then on it is expected. */
function Confirm({ b, close }: { b: Buy; close: () => void }) {
  const confirm = useCommand('/api/confirm-buy', close);
  const [ref, setRef] = useState('');
  const [due, setDue] = useState(b.wanted);
  const [qty, setQty] = useState<number | undefined>(b.qty);
  const [supplier, setSupplier] = useState('');
  const go = () => confirm.run({ ask: { number: b.number, ref, due, qty: qty ?? 0, supplier: supplier || undefined } });
  return (
    <Dialog title={t`${b.number} was ordered`} close={close}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          go();
        }}
      >
        <p className="text-mute">
          <Trans>
            {b.sku} {b.item}, for {b.warehouse}. From now on it is expected, and promises can rest on it.
          </Trans>
        </p>
        {(
          [
            [t`Reference of the purchase`, ref, setRef],
            [t`Supplier`, supplier, setSupplier],
          ] as const
        ).map(([label, value, set]) => (
          <label key={label} className="flex items-center justify-between gap-3">
            {label}
            <input className="input input-sm w-[220px]" value={value} onChange={(e) => set(e.target.value)} />
          </label>
        ))}
        <div className="flex items-center justify-between gap-3">
          {t`Due`}
          <DayField label={t`Due`} value={due} set={setDue} width={220} />
        </div>
        <label className="flex items-center justify-between gap-3">
          {t`Units`}
          <Whole className="input input-sm w-[220px]" label={t`Units`} value={qty} set={setQty} />
        </label>
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            {t`Cancel`}
          </button>
          <button className="btn btn-sm btn-primary" disabled={ref.trim() === '' || !due || !qty || confirm.busy}>
            {t`Expect it`} <Key>{t`Enter`}</Key>
          </button>
        </div>
      </form>
    </Dialog>
  );
}
