import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import type { Schemas } from '../../api/call';
import { ItemLink, OrderLink, Tier } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { say } from '../../base/say';

export type Report = Schemas['ImportReport'];

/** Where the count leaves fewer than are allocated: who would have what after giving back and allocating anew. */
function Breaks({ of }: { of: Report['breaks'] }) {
  return (
    <section className="mt-4 max-w-[980px]">
      <p>
        <Trans>
          <span className="late">
            {plural(of.length, 'item')} would have fewer units than {of.length === 1 ? t`is` : t`are`} allocated.
          </span>{' '}
          What is allocated there is given back, and allocated anew by the default policy, in the same step.
        </Trans>
      </p>
      {of.map((b) => (
        <table key={b.sku + b.warehouse} className="grid-table mt-2">
          <caption className="py-1 text-left">
            <ItemLink sku={b.sku} />{' '}
            <Trans>
              {b.item} at {b.warehouse}: {showNum(b.allocated)} allocated, {showNum(b.left)} are left for them
            </Trans>
          </caption>
          <thead>
            <tr>
              <th>{t`Tier`}</th>
              <th>{t`Order`}</th>
              <th>{t`Customer`}</th>
              <th>{t`Ship by`}</th>
              <th className="num">{t`Has`}</th>
              <th className="num">{t`Would have`}</th>
              <th>{t`Why`}</th>
            </tr>
          </thead>
          <tbody>
            {b.lines.map((l) => (
              <tr key={`${l.order}/${l.no}`}>
                <td>
                  <Tier n={l.tier} />
                </td>
                <td>
                  <OrderLink number={l.order} /> <span className="text-mute">{l.no}</span>
                </td>
                <td className="max-w-[160px] truncate" title={l.customer}>
                  {l.customer}
                </td>
                <td>{showDay(l.ship_by)}</td>
                <td className="num">{showNum(l.has)}</td>
                <td className={`num font-semibold ${l.gets < l.has ? 'late' : ''}`}>{showNum(l.gets)}</td>
                <td className="!whitespace-normal text-mute">{say(l.why)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </section>
  );
}

const doesText: Record<string, string> = { new: 'new', changed: 'changed', unchanged: 'unchanged', kept: t`stays as it is here` };

export function ReportView({ r, busy, apply, drop }: { r: Report; busy: boolean; apply: () => void; drop: () => void }) {
  return (
    <section className="mt-5" aria-label={t`What would happen`}>
      {r.faulty > 0 ? (
        <>
          <p className="late text-lead">
            <Trans>{plural(r.faulty, 'fault')}: nothing can be applied until they are mended in the files.</Trans>
          </p>
          <table className="grid-table mt-2 max-w-[1080px]">
            <thead>
              <tr>
                <th>{t`File`}</th>
                <th>{t`Column`}</th>
                <th>{t`Found`}</th>
                <th>{t`Expected`}</th>
                <th className="num">{t`Times`}</th>
                <th>{t`Rows`}</th>
              </tr>
            </thead>
            <tbody>
              {r.faults.map((f, i) => (
                <tr key={i}>
                  <td className="max-w-[180px] truncate" title={f.file}>
                    {f.file}
                  </td>
                  <td>{f.column}</td>
                  <td className="max-w-[180px] truncate" title={f.got}>
                    {f.got && `“${f.got}”`}
                  </td>
                  <td className="!whitespace-normal">
                    {say(f.expected)}
                    {f.mend && <span className="block text-mute">{say(f.mend)}</span>}
                  </td>
                  <td className="num font-semibold">{showNum(f.times)}</td>
                  <td className="text-mute">
                    {f.rows.map(showNum).join(', ')}
                    {f.times > f.rows.length && f.rows.length > 0 && ', …'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      ) : (
        <div className="flex items-center gap-3">
          <p className="text-lead font-semibold">
            {r.does > 0
              ? t`${plural(r.does, 'row')} would change something.`
              : t`Everything in these files is here already; applying changes nothing.`}
          </p>
          {r.does > 0 && (
            <button className="btn btn-sm btn-primary" disabled={busy} onClick={apply} autoFocus>
              {r.breaks.length > 0 ? t`Apply it, give back and allocate anew` : t`Apply all of it`}
            </button>
          )}
          <button className="btn btn-sm" disabled={busy} onClick={drop}>
            {t`Discard`}
          </button>
        </div>
      )}
      {r.breaks.length > 0 && r.faulty === 0 && <Breaks of={r.breaks} />}
      {r.files.map((f) => (
        <details key={f.file} className="mt-4 max-w-[980px]" open={r.files.length === 1}>
          <summary className="cursor-pointer">
            <Trans>
              <b>{f.kind}</b> <span className="text-mute">{f.file}</span> · {plural(f.rows, 'row')}: {showNum(f.new)} new,{' '}
              {showNum(f.changed)} changed, {showNum(f.unchanged)} unchanged
            </Trans>
            {f.kept > 0 && (
              <span className="late">
                <Trans>, {showNum(f.kept)} differ and stay as they are here</Trans>
              </span>
            )}
          </summary>
          <table className="grid-table mt-1">
            <thead>
              <tr>
                <th className="num">{t`Row`}</th>
                <th>{t`What`}</th>
                <th>{t`Would be`}</th>
                <th>{t`Note`}</th>
              </tr>
            </thead>
            <tbody>
              {f.effects.map((e) => (
                <tr key={e.row}>
                  <td className="num">{e.row}</td>
                  <td>{e.what}</td>
                  <td className={e.does === 'unchanged' ? 'text-mute' : ''}>{doesText[e.does]}</td>
                  <td className="!whitespace-normal text-mute">{e.notes}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {f.rows > f.effects.length && (
            <p className="mt-1 text-mute">
              <Trans>
                The first {showNum(f.effects.length)} of {showNum(f.rows)} rows are listed.
              </Trans>
            </p>
          )}
        </details>
      ))}
    </section>
  );
}
