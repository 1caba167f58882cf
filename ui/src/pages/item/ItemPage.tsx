import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from '@tanstack/react-router';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { ItemOutlook } from './ItemOutlook';
import { RequestBuy } from './RequestBuy';
import { OrderAside } from '../../parts/asides';
import { Day, DocumentLink, ItemLink, Key, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showKg, showMoney, showNum, showTime } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { lotSearch } from '../../parts/lots';
import { MoveArrival } from '../../parts/MoveArrival';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';
import { say } from '../../base/say';
import { TrailLink } from '../../parts/TrailLink';

export function ItemPage() {
  const number: string = useParams({ strict: false }).number ?? '';
  const item = useQuery({
    ...questions.item(number),
  });
  const focus = useRows(item.data?.lines ?? [], (l) => String(l.id));
  const { may } = useSigned();
  const [buying, setBuying] = useState(false);
  const [moving, setMoving] = useState<Schemas['InboundView']>();
  const buyable = item.data?.buyable === true && may('request to buy');
  useKey('b', t`Request that more is bought`, () => setBuying(true), { enabled: buyable });
  return (
    <Page
      aside={
        focus.row ? (
          <OrderAside number={focus.row.order} except={focus.row.id} />
        ) : (
          <p className="text-mute">{t`No line of this item is unfinished.`}</p>
        )
      }
    >
      <Load of={item}>
        {(it) => (
          <>
            <PageHead
              title={`${it.sku} · ${it.name}`}
              sub={[
                t`by the ${it.unit}${it.multiple > 1 ? t`, in packs of ${it.multiple}` : ''}`,
                showKg(it.weight_g),
                showMoney(it.price_minor, it.currency),
              ].join(' · ')}
            >
              {buyable ? (
                <button className="btn btn-sm" onClick={() => setBuying(true)}>
                  {t`Request to buy`} <Key>B</Key>
                </button>
              ) : (
                !it.buyable && <span className="text-mute">{t`It cannot be bought any more.`}</span>
              )}
              <JourneyBar at={it.at} width={180} of={it.sku} />
            </PageHead>
            {buying && <RequestBuy sku={it.sku} houses={it.cells.map((c) => c.warehouse)} close={() => setBuying(false)} />}
            <h2 className="mb-1 text-lead">{t`Stock`}</h2>
            {it.cells.length === 0 ? (
              <Empty title={t`No stock has ever been counted or received.`} />
            ) : (
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>{t`Warehouse`}</th>
                    <th className="num">{t`On hand`}</th>
                    <th className="num">{t`Held`}</th>
                    <th className="num">{t`Allocated`}</th>
                    <th className="num">{t`On the floor`}</th>
                    <th className="num">{t`Free`}</th>
                    <th className="num">{t`Wanted`}</th>
                    <th>{t`What is wrong`}</th>
                    <th>{t`Bins`}</th>
                  </tr>
                </thead>
                <tbody>
                  {it.cells.map((c) => (
                    <tr key={c.warehouse}>
                      <td>{c.name}</td>
                      <td className="num">{showNum(c.on_hand)}</td>
                      <td className="num">{c.held > 0 ? showNum(c.held) : ''}</td>
                      <td className="num">{showNum(c.allocated)}</td>
                      <td className="num">{showNum(c.floor)}</td>
                      <td className="num font-semibold">{showNum(c.free)}</td>
                      <td className="num">{c.wanted > 0 ? showNum(c.wanted) : ''}</td>
                      <td className="late !whitespace-normal">{wrongWith(c)}</td>
                      <td className="text-mute">
                        {c.bins.map((b, i) => (
                          <span key={b.bin}>
                            {i > 0 && ', '}
                            {b.bin ? (
                              <TrailLink only={[`bin=${b.bin}`, `warehouse=${c.warehouse}`]}>{b.bin}</TrailLink>
                            ) : (
                              t`no bin set`
                            )}
                            : {showNum(b.qty)}
                          </span>
                        ))}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            {(it.by_lots || it.lots.length > 0) && <LotsOf of={it} />}
            <ItemOutlook sku={it.sku} order={it.cells.map((c) => c.warehouse)} />
            <h2 className="mt-5 mb-1 text-lead">
              <Trans>Demand: {plural(it.lines.length, 'unfinished line')}</Trans>
            </h2>
            {it.lines.length > 0 && (
              <table className="grid-table">
                <thead>
                  <tr>
                    <th>{t`Tier`}</th>
                    <th>{t`Ship by`}</th>
                    <th>{t`Order`}</th>
                    <th>{t`Customer`}</th>
                    <th>{t`Warehouse`}</th>
                    <th className="num">{t`Ordered`}</th>
                    <th className="num">{t`Open`}</th>
                    <th>{t`Progress`}</th>
                  </tr>
                </thead>
                <tbody>
                  {it.lines.map((l) => (
                    <tr key={l.id} data-row data-focus={focus.id === String(l.id)} onClick={() => focus.setFocus(String(l.id))}>
                      <td>
                        <Tier n={l.tier} />
                      </td>
                      <td>
                        <Day iso={l.ship_by} late={l.late} />
                      </td>
                      <td>
                        <OrderLink number={l.order} />
                      </td>
                      <td>{l.customer}</td>
                      <td>{l.warehouse}</td>
                      <td className="num">{showNum(l.at.ordered)}</td>
                      <td className="num">{l.at.open > 0 ? showNum(l.at.open) : ''}</td>
                      <td>
                        <JourneyBar at={l.at} of={l.order} />
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            <div className="mt-5 grid grid-cols-[minmax(0,2fr)_minmax(0,3fr)] gap-8">
              <section>
                <h2 className="mb-1 text-lead">{t`On its way`}</h2>
                {it.inbound.length === 0 && <p className="text-mute">{t`Nothing is on its way.`}</p>}
                {it.inbound.map((n) => (
                  <p key={n.id} className="flex h-7 items-center gap-2" title={n.supplier}>
                    <span className="min-w-0 flex-1 truncate">
                      <Trans>
                        <b>{n.ref}</b> {showNum(n.left)} to {n.warehouse} due
                      </Trans>{' '}
                      {n.overdue ? (
                        <span className="late">
                          <Trans>{showDay(n.due)} · overdue</Trans>
                        </span>
                      ) : (
                        showDay(n.due)
                      )}
                    </span>
                    {may('move an arrival') && (
                      <button className="btn btn-xs btn-pill" onClick={() => setMoving(n)}>
                        {t`Reschedule…`}
                      </button>
                    )}
                  </p>
                ))}
                {moving && <MoveArrival n={moving} close={() => setMoving(undefined)} />}
                {it.buying.map((b) => (
                  <p key={b.number}>
                    <Trans>
                      <DocumentLink kind="request to buy" number={b.number} /> {showNum(b.qty)} for {b.warehouse} by{' '}
                      {showDay(b.wanted)} <span className="text-mute">requested, not yet ordered</span>
                    </Trans>
                  </p>
                ))}
                <h2 className="mt-4 mb-1 text-lead">{t`Substitute available`}</h2>
                {it.instead.length === 0 && <p className="text-mute">{t`No substitute of it is free.`}</p>}
                {it.instead.map((x) => (
                  <p key={x.sku} className="flex justify-between gap-2">
                    <span className="truncate" title={x.name}>
                      <ItemLink sku={x.sku} /> {x.name}{' '}
                      <span className="text-mute">
                        <Trans>another {x.kind}</Trans>
                      </span>
                    </span>
                    <span className="shrink-0">
                      <Trans>
                        <b>{showNum(x.free)}</b> at {x.warehouse}
                      </Trans>
                    </span>
                  </p>
                ))}
              </section>
              <section>
                <div className="mb-1 flex items-baseline gap-3">
                  <h2 className="text-lead">{t`What changed its stock`}</h2>
                  <TrailLink only={[`item=${it.sku}`]}>{t`Open in the journal`}</TrailLink>
                </div>
                <ol className="space-y-1">
                  {it.trail.slice(0, 7).map((m, i) => (
                    <li key={i} className="flex gap-2">
                      <span className="min-w-[122px] shrink-0 whitespace-nowrap text-mute">{showTime(m.at)}</span>
                      <span>
                        <b>{m.who}</b> {say(m.text)}
                      </span>
                    </li>
                  ))}
                </ol>
              </section>
            </div>
          </>
        )}
      </Load>
    </Page>
  );
}

/** Of which lots there is some in the house; each leads to where it is, and who got it. */
function LotsOf({ of: it }: { of: Schemas['ItemPage'] }) {
  return (
    <p className="mt-2">
      <span className="text-mute">{t`Lots in the house:`}</span> {it.lots.length === 0 && t`none is noted yet`}
      {it.lots.map((l, i) => (
        <span key={l.lot}>
          {i > 0 && ', '}
          <Link to="/lots" search={lotSearch(it.sku, l.lot)} className={`ref ${l.stop ? 'late' : ''}`}>
            {l.lot}
          </Link>
          : {showNum(l.qty)}
          {l.stop && <span className="late"> {t`must not be sent`}</span>}
        </span>
      ))}{' '}
      ·{' '}
      <Link to="/lots" search={{ only: [`item=${it.sku}`] }} className="ref">
        {t`Who got which`}
      </Link>
    </p>
  );
}

/** What is wrong with the item at a warehouse, in words. */
function wrongWith(c: Schemas['CellView']) {
  return [
    c.over && t`too much promised from ${showDay(c.over)}`,
    c.short > 0 && t`${showNum(c.short)} short`,
    c.overdue > 0 && t`${showNum(c.overdue)} overdue`,
  ]
    .filter(Boolean)
    .join(', ');
}
