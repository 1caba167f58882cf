import { t } from '@lingui/core/macro';
import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ask, client, command, keyFor, Refused, wasStopped } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { PageHead } from '../../parts/bits';
import { showNum } from '../../base/format';
import { useProgress } from '../../parts/useProgress';
import { ReportView, type Report } from './Report';
import { Shapes } from './Shape';

export function ImportPage() {
  const { may } = useSigned();
  const queries = useQueryClient();
  const { tell } = useToasts();
  const input = useRef<HTMLInputElement>(null);
  const [report, setReport] = useState<Report>();
  const [running, setRunning] = useState<{ key: string; what: string; stop: AbortController }>();
  const [over, setOver] = useState(false);
  const [error, setError] = useState('');
  const [chosen, setChosen] = useState<File[]>([]);
  const progress = useProgress(running?.key);

  const check = async (files: File[]) => {
    if (files.length === 0) return;
    const key = crypto.randomUUID();
    const stop = new AbortController();
    setChosen(files);
    setReport(undefined);
    setError('');
    setRunning({ key, what: t`Reading`, stop });
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
      if (!answer.ok) throw new Refused(answer.status, body.detail ?? t`The files could not be read.`);
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
    setRunning({ key, what: t`Applying`, stop });
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

  const samples = async () => {
    try {
      const files = await ask(client.GET('/api/imports/samples'));
      await check(files.map((f) => new File([f.text], f.name, { type: 'text/csv' })));
    } catch (e) {
      setError((e as Error).message);
    }
  };

  const asks = report?.shapes.some((s) => s.asks);
  return (
    <Page>
      <PageHead
        title={t`Import files`}
        sub={t`Items, stock, customers, inbound, orders: see what would happen, then apply all of it or nothing`}
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
        className={`alert note-box flex max-w-[860px] items-center gap-4 py-4 ${over ? 'border-focus! bg-focus-ground!' : ''}`}
      >
        <label className={`btn btn-sm btn-primary ${may('import') && !running ? '' : 'pointer-events-none opacity-50'}`}>
          {t`Choose files`}
          <input
            ref={input}
            type="file"
            multiple
            accept=".csv,.xlsx,text/csv,application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
            className="sr-only"
            disabled={!may('import') || !!running}
            onChange={(e) => void check([...(e.target.files ?? [])])}
          />
        </label>
        <span className="text-mute">
          {may('import')
            ? t`CSV or XLSX, several at once, or drop them here. Which is which is told by the columns; unknown ones are asked about once.`
            : t`Imports are for a coordinator.`}
        </span>
        {may('import') && (
          <button className="btn btn-sm ml-auto" disabled={!!running} onClick={() => void samples()}>
            {t`Use the sample files`}
          </button>
        )}
      </div>
      {running && (
        <div className="mt-4 max-w-[860px]" role="status">
          <p className="flex items-center justify-between">
            <span>
              {progress?.step ?? running.what}{' '}
              {progress && progress.total > 0 && t`${showNum(progress.done)} of ${showNum(progress.total)}`}
            </span>
            <button className="btn btn-xs btn-pill" onClick={() => running.stop.abort()}>
              {t`Cancel`}
            </button>
          </p>
          <progress className="progress mt-1 w-full" value={progress?.done} max={progress?.total || 1} aria-label={t`Progress`} />
        </div>
      )}
      {error && (
        <p className="late mt-4" role="alert">
          {error}
        </p>
      )}
      {report && report.shapes.length > 0 && <Shapes key={report.key} of={report.shapes} again={() => void check(chosen)} />}
      {report && !asks && report.files.length + report.faulty > 0 && (
        <ReportView r={report} busy={!!running} apply={() => void apply(report)} drop={() => setReport(undefined)} />
      )}
    </Page>
  );
}
