import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { command, keyFor, Refused, type Schemas, wasStopped } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { ItemLink, OrderLink, PageHead, Tier } from '../../parts/bits';
import { plural, showDay, showNum } from '../../base/format';
import { useProgress } from '../../parts/useProgress';

type Report = Schemas['ImportReport'];

export function ImportPage() {
  const { may } = useSigned();
  const queries = useQueryClient();
  const { tell } = useToasts();
  const input = useRef<HTMLInputElement>(null);
  const [report, setReport] = useState<Report>();
  const [running, setRunning] = useState<{ key: string; what: string; stop: AbortController }>();
  const [over, setOver] = useState(false);
  const [error, setError] = useState('');
  const progress = useProgress(running?.key);

  const check = async (files: File[]) => {
    if (files.length === 0) return;
    const key = crypto.randomUUID();
    const stop = new AbortController();
    setReport(undefined);
    setError('');
    setRunning({ key, what: 'Reading', stop });
    const form = new FormData();
    for (const f of files) form.append('files', f, f.name);
    try {
      const answer = await fetch('/api/imports', {
        method: 'POST',
        headers: { 'Idempotency-Key': key },
        body: form,
        signal: stop.signal,
      });
      const body = (await answer.json()) as Report & { detail?: string };
      if (!answer.ok) throw new Refused(answer.status, body.detail ?? 'The files could not be read.');
      setReport(body);
    } catch (e) {
      if (!stop.signal.aborted) setError((e as Error).message);
    }
    setRunning(undefined);
    if (input.current) input.current.value = '';
  };

  const apply = async (r: Report) => {
    const ask = { import: r.key, anew: r.breaks.length > 0 || undefined };
    const key = keyFor('/api/imports/apply', ask);
    const stop = new AbortController();
    setRunning({ key, what: 'Applying', stop });
    try {
      const out = await command('/api/imports/apply', ask, undefined, key, stop.signal);
      tell({ text: out.sentence });
      if (!wasStopped(out)) setReport(undefined);
    } catch (e) {
      tell({ text: (e as Error).message, bad: true });
    }
    setRunning(undefined);
    void queries.invalidateQueries();
  };

  return (
    <Page>
      <PageHead
        title="Import CSV files"
        sub="Items, stock, customers, inbound, orders: see what would happen, then apply all of it or nothing"
      />
      <div
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          if (may('import')) void check([...e.dataTransfer.files]);
        }}
        className={`note-box flex max-w-[860px] items-center gap-4 py-4 ${over ? 'border-focus bg-focus-ground' : ''}`}
      >
        <label className={`act act-main ${may('import') && !running ? '' : 'pointer-events-none opacity-50'}`}>
          Choose files
          <input
            ref={input}
            type="file"
            multiple
            accept=".csv,text/csv"
            className="sr-only"
            disabled={!may('import') || !!running}
            onChange={(e) => void check([...(e.target.files ?? [])])}
          />
        </label>
        <span className="text-mute">
          {may('import')
            ? 'or drop them here. Which file is which is told by its columns; several may be chosen at once.'
            : 'Imports are for a coordinator.'}
        </span>
      </div>
      {running && (
        <div className="mt-4 max-w-[860px]" role="status">
          <p className="flex items-center justify-between">
            <span>
              {progress?.step ?? running.what}{' '}
              {progress && progress.total > 0 && `${showNum(progress.done)} of ${showNum(progress.total)}`}
            </span>
            <button className="pill" onClick={() => running.stop.abort()}>
              Cancel
            </button>
          </p>
          <progress className="progress mt-1 w-full" value={progress?.done} max={progress?.total || 1} aria-label="Progress" />
        </div>
      )}
      {error && (
        <p className="late mt-4" role="alert">
          {error}
        </p>
      )}
      {report && <ReportView r={report} busy={!!running} apply={() => void apply(report)} drop={() => setReport(undefined)} />}
    </Page>
  );
}

/** Where the count leaves fewer than are allocated: who would have what after giving back and allocating anew. */
function Breaks({ of }: { of: Report['breaks'] }) {
  return (
    <section className="mt-4 max-w-[980px]">
      <p>
        <span className="late">
          {plural(of.length, 'item')} would have fewer units than {of.length === 1 ? 'is' : 'are'} allocated.
        </span>{' '}
        What is allocated there is given back, and allocated anew by the default policy, in the same step.
      </p>
      {of.map((b) => (
        <table key={b.sku + b.warehouse} className="grid-table mt-2">
          <caption className="py-1 text-left">
            <ItemLink sku={b.sku} /> {b.item} at {b.warehouse}: {showNum(b.allocated)} allocated, {showNum(b.left)} are left for
            them
          </caption>
          <thead>
            <tr>
              <th>Tier</th>
              <th>Order</th>
              <th>Customer</th>
              <th>Ship by</th>
              <th className="num">Has</th>
              <th className="num">Would have</th>
              <th>Why</th>
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
                <td className="!whitespace-normal text-mute">{l.why}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </section>
  );
}

const doesText: Record<string, string> = { new: 'new', changed: 'changed', unchanged: 'unchanged', kept: 'stays as it is here' };

function ReportView({ r, busy, apply, drop }: { r: Report; busy: boolean; apply: () => void; drop: () => void }) {
  return (
    <section className="mt-5" aria-label="What would happen">
      {r.faulty > 0 ? (
        <>
          <p className="late text-[15px]">
            {plural(r.faulty, 'fault')}: nothing can be applied until they are mended in the files.
          </p>
          <table className="grid-table mt-2 max-w-[980px]">
            <thead>
              <tr>
                <th>File</th>
                <th className="num">Row</th>
                <th>Column</th>
                <th>Found</th>
                <th>Expected</th>
              </tr>
            </thead>
            <tbody>
              {r.faults.slice(0, 100).map((f, i) => (
                <tr key={i}>
                  <td>{f.file}</td>
                  <td className="num">{f.row || ''}</td>
                  <td>{f.column}</td>
                  <td className="max-w-[200px] truncate">{f.got && `“${f.got}”`}</td>
                  <td className="!whitespace-normal">{f.expected}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {r.faulty > 100 && <p className="mt-1 text-mute">and {showNum(r.faulty - 100)} more</p>}
        </>
      ) : (
        <div className="flex items-center gap-3">
          <p className="text-[15px] font-semibold">
            {r.does > 0
              ? `${plural(r.does, 'row')} would change something.`
              : 'Everything in these files is here already; applying changes nothing.'}
          </p>
          {r.does > 0 && (
            <button className="act act-main" disabled={busy} onClick={apply} autoFocus>
              {r.breaks.length > 0 ? 'Apply it, give back and allocate anew' : 'Apply all of it'}
            </button>
          )}
          <button className="act" disabled={busy} onClick={drop}>
            Discard
          </button>
        </div>
      )}
      {r.breaks.length > 0 && r.faulty === 0 && <Breaks of={r.breaks} />}
      {r.files.map((f) => (
        <details key={f.file} className="mt-4 max-w-[980px]" open={r.files.length === 1}>
          <summary className="cursor-pointer">
            <b>{f.kind}</b> <span className="text-mute">{f.file}</span> · {plural(f.rows, 'row')}: {showNum(f.new)} new,{' '}
            {showNum(f.changed)} changed, {showNum(f.unchanged)} unchanged
            {f.kept > 0 && <span className="late">, {showNum(f.kept)} differ and stay as they are here</span>}
          </summary>
          <table className="grid-table mt-1">
            <thead>
              <tr>
                <th className="num">Row</th>
                <th>What</th>
                <th>Would be</th>
                <th>Note</th>
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
              The first {showNum(f.effects.length)} of {showNum(f.rows)} rows are listed.
            </p>
          )}
        </details>
      ))}
    </section>
  );
}
