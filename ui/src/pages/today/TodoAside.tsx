import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { questions } from '../../base/questions';
import { showDay, showKg, showNum } from '../../base/format';
import { ItemAside, OrderAside } from '../../parts/asides';
import { DocumentLink, Facts, ItemLink, OrderLink } from '../../parts/bits';
import { lossOf, matterOf, type Todo } from './words';

/** What is asked next about something that waits. */
export function TodoAside({ todo: todo }: { todo: Todo }) {
  const loss = lossOf(todo);
  return (
    <>
      <section className="pr-5 pb-3">
        <p>
          <DocumentLink kind={todo.document} number={todo.number} /> {matterOf(todo)}
        </p>
        <p className={loss.late ? 'late' : 'text-mute'}>{loss.text}</p>
      </section>
      {todo.document === 'order' && <OrderAside number={todo.number} />}
      {todo.document === 'shipment' && <Shipment number={todo.number} />}
      {todo.document === 'pick list' && <PickList number={todo.number} />}
      {(todo.document !== 'order' || todo.kind === 'short') && todo.sku && (
        <ItemAside sku={todo.sku} warehouse={todo.warehouse} />
      )}
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
            [t`Service`, s.service],
            [t`Packages`, showNum(s.packages)],
            [t`Weight`, showKg(s.weight_g)],
            ...(s.tracking ? ([[t`Tracking`, s.tracking]] as [string, string][]) : []),
            ...(s.expected ? ([[t`Expected`, showDay(s.expected)]] as [string, string][]) : []),
          ]}
        />
      </div>
      <p className="mt-3 text-mute">{t`Orders`}</p>
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
  const due = l.tasks.filter((todo) => todo.due > 0);
  return (
    <section className="border-t border-line pt-3">
      <p className="text-mute">{t`To pick, in walking order`}</p>
      <table className="grid-table">
        <tbody>
          {due.slice(0, most).map((todo) => (
            <tr key={todo.id}>
              <td>{todo.bin || <span className="late">{t`no bin`}</span>}</td>
              <td className="max-w-[110px] truncate" title={todo.item}>
                <ItemLink sku={todo.sku} />
              </td>
              <td className="num">{showNum(todo.due)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {due.length > most && (
        <p className="text-mute">
          <Trans>and {showNum(due.length - most)} more</Trans>
        </p>
      )}
    </section>
  );
}
