import { useQuery } from '@tanstack/react-query';
import { questions } from '../../base/questions';
import { showDay, showKg, showNum } from '../../base/format';
import { ItemAside, OrderAside } from '../../parts/asides';
import { DocumentLink, Facts, ItemLink, OrderLink } from '../../parts/bits';
import { lossOf, matterOf, type Todo } from './words';

/** What is asked next about something that waits. */
export function TodoAside({ todo: t }: { todo: Todo }) {
  const loss = lossOf(t);
  return (
    <>
      <section className="pr-5 pb-3">
        <p>
          <DocumentLink kind={t.document} number={t.number} /> {matterOf(t)}
        </p>
        <p className={loss.late ? 'late' : 'text-mute'}>{loss.text}</p>
      </section>
      {t.document === 'order' && <OrderAside number={t.number} />}
      {t.document === 'shipment' && <Shipment number={t.number} />}
      {t.document === 'pick list' && <PickList number={t.number} />}
      {t.document !== 'order' && t.sku && <ItemAside sku={t.sku} warehouse={t.warehouse} />}
    </>
  );
}

function Shipment({ number }: { number: string }) {
  const { data: s } = useQuery(questions.shipment(number));
  if (!s) return null;
  return (
    <section className="border-t border-line pt-3">
      <p>{s.ship_to.name}</p>
      <p className="text-mute">
        {s.ship_to.city} {s.ship_to.postcode}
      </p>
      <div className="mt-2">
        <Facts
          rows={[
            ['Service', s.service],
            ['Packages', showNum(s.packages)],
            ['Weight', showKg(s.weight_g)],
            ...(s.tracking ? ([['Tracking', s.tracking]] as [string, string][]) : []),
            ...(s.expected ? ([['Expected', showDay(s.expected)]] as [string, string][]) : []),
          ]}
        />
      </div>
      <p className="mt-3 text-mute">Orders</p>
      {s.orders.map((o) => (
        <p key={o}>
          <OrderLink number={o} />
        </p>
      ))}
    </section>
  );
}

/** How many of the rows to pick are listed. */
const most = 14;

function PickList({ number }: { number: string }) {
  const { data: l } = useQuery(questions.pickList(number));
  if (!l) return null;
  const due = l.tasks.filter((t) => t.due > 0);
  return (
    <section className="border-t border-line pt-3">
      <p className="text-mute">To pick, in walking order</p>
      <table className="grid-table">
        <tbody>
          {due.slice(0, most).map((t) => (
            <tr key={t.id}>
              <td>{t.bin || <span className="late">no bin</span>}</td>
              <td className="max-w-[110px] truncate" title={t.item}>
                <ItemLink sku={t.sku} />
              </td>
              <td className="num">{showNum(t.due)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {due.length > most && <p className="text-mute">and {showNum(due.length - most)} more</p>}
    </section>
  );
}
