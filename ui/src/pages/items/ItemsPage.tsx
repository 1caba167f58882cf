import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { ask, client } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { ItemAside } from '../../parts/asides';
import { ItemLink, PageHead } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { Choice, Find, Pager, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';

export function ItemsPage() {
  const [s] = useList();
  const items = useQuery({
    queryKey: ['items', s],
    queryFn: () => ask(client.GET('/api/items', { params: { query: { q: s.q, sort: s.sort, page: s.page } } })),
    placeholderData: keepPreviousData,
  });
  const focus = useRows(items.data?.items ?? [], (i) => i.sku);
  const go = useNavigate();
  useKey('enter', 'Open the item', () => focus.row && void go({ to: '/items/$number', params: { number: focus.row.sku } }));
  return (
    <Page aside={focus.row ? <ItemAside sku={focus.row.sku} /> : <p className="text-mute">Select a row.</p>}>
      <PageHead title="Items" sub={items.data && plural(items.data.total, 'item')}>
        <Choice
          name="sort"
          options={[
            ['', 'By number'],
            ['short', 'Most wanting first'],
            ['free', 'Most free first'],
          ]}
        />
        <Find label="Part of a number or name…" />
      </PageHead>
      <Load of={items}>
        {(d) =>
          d.items.length === 0 ? (
            <Empty title="No item fits this.">Look for part of a number or part of a name.</Empty>
          ) : (
            <>
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>Item</th>
                    <th>Name</th>
                    <th>Unit</th>
                    <th className="num">On hand</th>
                    <th className="num">Free</th>
                    <th className="num">Open</th>
                    <th className="num">Wanting</th>
                    <th className="num">On its way</th>
                    <th>Next arrival</th>
                  </tr>
                </thead>
                <tbody>
                  {d.items.map((i) => (
                    <tr key={i.sku} data-row data-focus={focus.id === i.sku} onClick={() => focus.setFocus(i.sku)}>
                      <td>
                        <ItemLink sku={i.sku} />
                      </td>
                      <td className="max-w-[260px] truncate">{i.name}</td>
                      <td className="text-mute">{i.unit}</td>
                      <td className="num">{showNum(i.on_hand)}</td>
                      <td className="num">{showNum(i.free)}</td>
                      <td className="num">{i.open > 0 ? showNum(i.open) : ''}</td>
                      <td className="num">{i.wanting > 0 && <span className="late">{showNum(i.wanting)} short</span>}</td>
                      <td className="num">{i.incoming > 0 ? showNum(i.incoming) : ''}</td>
                      <td>
                        {i.next_due &&
                          (i.overdue ? <span className="late">{showDay(i.next_due)} · overdue</span> : showDay(i.next_due))}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Pager page={d.page} pages={d.pages} total={d.total} what="items" />
            </>
          )
        }
      </Load>
    </Page>
  );
}
