import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { PageHead } from '../../parts/bits';
import { plural, showDay, showNum, showTime } from '../../base/format';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';

/** The pick lists on the floor, oldest first, and the latest that are done. */
export function FloorPage() {
  const lists = useQuery(questions.pickLists());
  const focus = useRows(lists.data?.open ?? [], (l) => l.number);
  const go = useNavigate();
  useKey(
    'enter',
    t`Open the pick list`,
    () => focus.row && void go({ to: '/floor/$number', params: { number: focus.row.number } }),
  );
  return (
    <Page>
      <PageHead title={t`Released: pick lists`} sub={lists.data && t`${plural(lists.data.open.length, 'list')} to be picked`} />
      <Load of={lists}>
        {(d) => (
          <>
            {d.open.length === 0 ? (
              <Empty title={t`Nothing is left to pick.`}>
                <Trans>
                  Pick lists appear here when allocated lines are{' '}
                  <Link to="/release" className="ref">
                    released
                  </Link>
                  .
                </Trans>
              </Empty>
            ) : (
              <Table lists={d.open} focus={focus.id} set={focus.setFocus} />
            )}
            {d.done.length > 0 && (
              <>
                <h2 className="mt-6 mb-1 text-lead">{t`Recently picked`}</h2>
                <Table lists={d.done} focus="" set={() => {}} />
              </>
            )}
          </>
        )}
      </Load>
    </Page>
  );
}

function Table({ lists, focus, set }: { lists: Schemas['ListView'][]; focus: string; set: (id: string) => void }) {
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th>{t`Pick list`}</th>
          <th>{t`Warehouse`}</th>
          <th>{t`First ships`}</th>
          <th className="num">{t`Orders`}</th>
          <th className="num">{t`Rows`}</th>
          <th className="num">{t`Units`}</th>
          <th>{t`Still to pick`}</th>
          <th className="max-[1000px]:hidden">{t`Released`}</th>
        </tr>
      </thead>
      <tbody>
        {lists.map((l) => (
          <tr key={l.number} data-row data-focus={focus === l.number} onClick={() => set(l.number)}>
            <td>
              <Link to="/floor/$number" params={{ number: l.number }} className="ref">
                {l.number}
              </Link>
            </td>
            <td>{l.warehouse}</td>
            <td>{showDay(l.first_ship)}</td>
            <td className="num">{showNum(l.orders)}</td>
            <td className="num">{showNum(l.rows)}</td>
            <td className="num">{showNum(l.units)}</td>
            <td>
              {l.due > 0 ? t`${showNum(l.due)} units in ${plural(l.rows_due, 'row')}` : t`nothing`}
              {l.short > 0 && (
                <span className="late">
                  {' '}
                  <Trans>· {showNum(l.short)} were short</Trans>
                </span>
              )}
            </td>
            <td className="text-mute max-[1000px]:hidden">
              {l.who}, {showTime(l.at)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
