import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { questions } from '../../base/questions';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { ItemAside, OrderAside } from '../../parts/asides';
import { ItemLink, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { Find, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { Sentence } from './Sentence';
import { say } from '../../base/say';

/** Every promise that stands, the earliest day first, and what it rests on. */
export function Standing() {
  const [search, set] = useList();
  const go = useNavigate();
  const q = search.q ?? '';
  const page = useQuery({
    ...questions.promised(q),
  });
  const rows = page.data?.promises ?? [];
  const focus = useRows(rows, (p) => `${p.line_id} ${p.day} ${p.warehouse}`);
  const row = focus.row;
  useKey('enter', t`Open the order`, () => row && void go({ to: '/orders/$number', params: { number: row.order } }));
  useKey(
    'o',
    t`Outlook of the item in focus`,
    () => row && set({ sku: row.sku, qty: String(row.qty), line: String(row.line_id) }),
  );
  return (
    <Page
      aside={
        row ? (
          <>
            <ItemAside sku={row.sku} warehouse={row.warehouse} />
            <OrderAside number={row.order} except={row.line_id} />
          </>
        ) : (
          <p className="text-mute">{t`Select a row.`}</p>
        )
      }
    >
      <Sentence />
      <PageHead
        title={t`Promises that stand`}
        sub={
          page.data && (
            <>
              <Trans>
                {plural(page.data.total, 'promise')};{' '}
                <Link to="/open" className="ref">
                  {plural(page.data.without, 'open line')}
                </Link>{' '}
                have none
              </Trans>
            </>
          )
        }
      >
        <Find label={t`Order, customer, item…`} />
      </PageHead>
      <Load of={page}>
        {(d) =>
          d.promises.length === 0 ? (
            <Empty title={q ? t`No promise has “${q}”.` : t`Nothing is promised that is not allocated already.`}>
              {t`Ask above what can be promised, or promise the rest of an order from its page.`}
            </Empty>
          ) : (
            <table className="grid-table">
              <thead>
                <tr>
                  <th>{t`Leaves`}</th>
                  <th>{t`Tier`}</th>
                  <th>{t`Order`}</th>
                  <th>{t`Customer`}</th>
                  <th>{t`Item`}</th>
                  <th className="num">{t`Promised`}</th>
                  <th>{t`Warehouse`}</th>
                  <th>{t`Rests on`}</th>
                </tr>
              </thead>
              <tbody>
                {d.promises.map((p) => {
                  const id = `${p.line_id} ${p.day} ${p.warehouse}`;
                  return (
                    <tr key={id} data-row data-focus={focus.id === id} onClick={() => focus.setFocus(id)}>
                      <td>
                        {p.past ? (
                          <span className="late">
                            <Trans>{showDay(p.day)} · passed</Trans>
                          </span>
                        ) : p.late ? (
                          <span className="late">
                            <Trans>{showDay(p.day)} · late</Trans>
                          </span>
                        ) : (
                          showDay(p.day)
                        )}
                      </td>
                      <td>
                        <Tier n={p.tier} />
                      </td>
                      <td>
                        <OrderLink number={p.order} />
                      </td>
                      <td className="max-w-[150px] truncate" title={p.customer}>
                        {p.customer}
                      </td>
                      <td className="max-w-[210px] truncate" title={p.item}>
                        <ItemLink sku={p.sku} /> <span className="text-mute">{p.item}</span>
                      </td>
                      <td className="num">{showNum(p.qty)}</td>
                      <td>{p.warehouse}</td>
                      <td className="max-w-[190px] truncate" title={say(p.rests)}>
                        {p.shaky ? <span className="late">{say(p.rests)}</span> : say(p.rests)}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )
        }
      </Load>
    </Page>
  );
}
