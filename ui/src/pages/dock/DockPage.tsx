import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { Day, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showKg, showNum, showTime } from '../../base/format';
import { Asking } from '../../parts/Asking';
import { Choice, useList } from '../../parts/list';
import { useChosen, useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { say } from '../../base/say';

type Shipment = Schemas['ShipmentView'];

/** Shipments at the dock, under way, and delivered. */
export function DockPage() {
  const [s] = useList();
  const { may } = useSigned();
  const dock = useQuery(questions.dock());
  const show = s.show ?? 'packed';
  const rows =
    (dock.data && { packed: dock.data.waiting, 'under way': dock.data.under_way, delivered: dock.data.delivered }[show]) ?? [];
  const focus = useRows(rows, (x) => x.number);
  const picked = useChosen();
  const chosen = rows.filter((x) => picked.has(x.number) && x.state !== 'asking');
  const dispatch = useCommand('/api/dispatch', picked.clear);
  const deliver = useCommand('/api/deliver', picked.clear);
  const go = useNavigate();
  const seen = chosen.map((x) => ({ number: x.number, seen: x.units }));
  const leaving = show === 'packed';
  const verb = leaving ? 'dispatch' : 'deliver';
  const busy = dispatch.busy || deliver.busy;
  const run = () => (leaving ? dispatch.run({ ask: seen }) : deliver.run({ ask: seen }));
  useKey(
    'space, x',
    t`Choose the shipment`,
    () => focus.row && show !== 'delivered' && (picked.toggle(focus.row.number), focus.move(1)),
  );
  useKey('esc', t`Choose none`, picked.clear, { enabled: chosen.length > 0 });
  useKey(
    'enter',
    t`Open the shipment`,
    () => focus.row && void go({ to: '/shipments/$number', params: { number: focus.row.number } }),
  );
  return (
    <Page
      tray={
        chosen.length > 0 && (
          <>
            <span>
              <b>{plural(chosen.length, 'shipment')}</b>
            </span>
            <span>
              <b>
                {plural(
                  chosen.reduce((n, x) => n + x.packages, 0),
                  'package',
                )}
              </b>
            </span>
            <span>
              <b>{showKg(chosen.reduce((n, x) => n + x.weight_g, 0))}</b>
            </span>
            {leaving && (
              <span>
                <Trans>
                  stock falls by{' '}
                  {plural(
                    chosen.reduce((n, x) => n + x.units, 0),
                    'unit',
                  )}{' '}
                  when the carrier has taken them
                </Trans>
              </span>
            )}
            <span className="ml-auto flex items-center gap-2">
              <button className="cursor-pointer px-2" onClick={picked.clear}>
                {t`Choose none`} <Key>{t`Esc`}</Key>
              </button>
              <Act
                keys={leaving ? 'd' : 'm'}
                does={leaving ? t`Dispatch the chosen shipments` : t`Mark the chosen shipments delivered`}
                why={may(verb) ? '' : t`This is for the floor or a coordinator.`}
                off={busy}
                run={run}
              >
                {leaving ? t`Dispatch ${plural(chosen.length, 'shipment')}` : t`Mark delivered`}
              </Act>
            </span>
          </>
        )
      }
    >
      <PageHead
        title={t`The dock`}
        sub={
          dock.data &&
          [
            plural(dock.data.waiting.filter((x) => x.state !== 'asking').length, 'shipment') + ' wait',
            ...asked(dock.data.waiting),
            t`${showNum(dock.data.under_way_total)} are under way`,
          ].join(', ')
        }
      >
        <Choice
          name="show"
          options={[
            ['', t`Packed`],
            ['under way', t`Under way`],
            ['delivered', t`Delivered lately`],
          ]}
        />
      </PageHead>
      {show === 'under way' && (
        <p className="pb-2 text-mute">
          <Trans>
            The carrier here is a stand-in: it delivers by itself a while after it took a shipment, or at once if you choose
            shipments and press <Key>M</Key>.
          </Trans>
          {dock.data && dock.data.under_way_total > dock.data.under_way.length && (
            <>
              {' '}
              <Trans>
                The {showNum(dock.data.under_way.length)} that should have arrived first are listed; others are found by their
                number or on their order.
              </Trans>
            </>
          )}
        </p>
      )}
      <Load of={dock}>
        {() =>
          rows.length === 0 ? (
            <Empty
              title={
                show === 'packed'
                  ? t`Nothing stands at the dock.`
                  : show === 'delivered'
                    ? t`Nothing has arrived yet.`
                    : t`Nothing is under way.`
              }
            >
              {show === 'packed' ? (
                <>
                  <Trans>
                    Shipments come here when orders are{' '}
                    <Link to="/packing" className="ref">
                      packed
                    </Link>
                    .
                  </Trans>
                </>
              ) : (
                t`Shipments come here when they are dispatched.`
              )}
            </Empty>
          ) : (
            <table className="grid-table">
              <thead>
                <tr>
                  <th aria-label={t`Chosen`} />
                  <th>{t`Tier`}</th>
                  <th>{t`Shipment`}</th>
                  <th>{leaving ? t`Ship by` : t`Expected`}</th>
                  <th>{t`Customer`}</th>
                  <th className="max-[1119px]:hidden">{t`Ship to`}</th>
                  <th className="max-[1000px]:hidden">{t`Service`}</th>
                  <th>{t`Warehouse`}</th>
                  <th>{t`Orders`}</th>
                  <th className="num max-[1119px]:hidden">{t`Packages`}</th>
                  <th className="num max-[1000px]:hidden">{t`Weight`}</th>
                  <th>{leaving ? '' : t`Tracking`}</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((x) => (
                  <Row
                    key={x.number}
                    x={x}
                    show={show}
                    focused={focus.id === x.number}
                    focus={() => focus.setFocus(x.number)}
                    has={picked.has(x.number)}
                    toggle={() => picked.toggle(x.number)}
                  />
                ))}
              </tbody>
            </table>
          )
        }
      </Load>
    </Page>
  );
}

/** Of how many the carrier is being asked, in words. */
function asked(waiting: Shipment[]) {
  const n = waiting.filter((x) => x.state === 'asking').length;
  return n > 0 ? [t`the carrier is asked about ${showNum(n)}`] : [];
}

/** How far a shipment is, beside what the columns say. */
function How({ x }: { x: Shipment }) {
  if (x.state === 'asking') return <Asking of={x} />;
  if (x.tracking)
    return (
      <span title={t`dispatched ${showTime(x.dispatched ?? '')}`}>
        {x.tracking} <span className="text-mute">{x.delivered ? t`arrived ${showTime(x.delivered)}` : x.carrier}</span>
        {x.exception && !x.delivered && <span className="late block">{x.exception}</span>}
      </span>
    );
  if (x.holds.length > 0)
    return (
      <span className="late">
        <Trans>{x.holds.join(', ')} hold</Trans>
      </span>
    );
  if (x.refused)
    return (
      <span className="late block max-w-[260px] whitespace-normal" title={x.refused}>
        {x.refused}
      </span>
    );
  return x.waits ? <span className="late">{say(x.waits)}</span> : null;
}

function Row({
  x,
  show,
  focused,
  focus,
  has,
  toggle,
}: {
  x: Shipment;
  show: string;
  focused: boolean;
  focus: () => void;
  has: boolean;
  toggle: () => void;
}) {
  return (
    <tr data-row data-focus={focused} onClick={focus}>
      <td>
        {show !== 'delivered' && x.state !== 'asking' && (
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            aria-label={t`Choose ${x.number}`}
            checked={has}
            onChange={toggle}
          />
        )}
      </td>
      <td>
        <Tier n={x.tier} />
      </td>
      <td>
        <Link to="/shipments/$number" params={{ number: x.number }} className="ref">
          {x.number}
        </Link>
      </td>
      <td>
        {show === 'packed' ? (
          <Day iso={x.ship_by} late={x.late} />
        ) : x.late ? (
          <span className="late">
            <Trans>{showDay(x.expected ?? '')} · overdue</Trans>
          </span>
        ) : (
          showDay(x.expected ?? '')
        )}
      </td>
      <td className="max-w-[160px] truncate" title={x.customer}>
        {x.customer}
      </td>
      <td className="max-w-[170px] truncate max-[1119px]:hidden" title={x.ship_to.name}>
        {x.ship_to.city} {x.ship_to.postcode}
      </td>
      <td className="max-[1000px]:hidden">{x.service}</td>
      <td>{x.warehouse}</td>
      <td>
        {x.orders.map((o) => (
          <span key={o} className="mr-2">
            <OrderLink number={o} />
          </span>
        ))}
      </td>
      <td className="num max-[1119px]:hidden">{showNum(x.packages)}</td>
      <td className="num max-[1000px]:hidden">{showKg(x.weight_g)}</td>
      <td className="max-[1119px]:max-w-[200px] max-[1119px]:whitespace-normal!">
        <How x={x} />
      </td>
    </tr>
  );
}
