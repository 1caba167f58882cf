import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { skipToken, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useEffect, useMemo, useRef, useState } from 'react';
import { questions } from '../../base/questions';
import { ask, client, command, keyFor, Refused, type Schemas, wasStopped } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Act } from '../../parts/Act';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { ItemAside, OrderAside } from '../../parts/asides';
import { Key, PageHead } from '../../parts/bits';
import { plural, showNum } from '../../base/format';
import { useList } from '../../parts/list';
import { Empty } from '../../parts/states';
import { useProgress } from '../../parts/useProgress';
import { GiveBackAll } from './GiveBackAll';
import { PastRuns } from './PastRuns';
import { RunLines, type Shown } from './RunLines';
import { RunTotals } from './RunTotals';
import { say } from '../../base/say';

type View = Schemas['RunView'];

interface Running {
  key: string;
  what: string;
  stop: AbortController;
}

/** Something of the page that is kept while one is elsewhere. */
function useKept<T>(...key: [string, string]): [T | undefined, (to: T | undefined) => void] {
  const queries = useQueryClient();
  const kept = useQuery<T | null>({ queryKey: key, queryFn: skipToken, staleTime: Infinity, gcTime: Infinity });
  return [kept.data ?? undefined, (to) => void queries.setQueryData<T | null>(key, to ?? null)];
}

/** A policy run over the book: rehearsed, compared with another, and applied exactly as shown. */
export function RunPage() {
  const [s, set] = useList();
  const { may } = useSigned();
  const { tell } = useToasts();
  const queries = useQueryClient();
  const policies = useQuery(questions.policies());
  const [why, setWhy] = useState('');
  const [done, setDone] = useState(''); // what was applied just now
  const [plan, setPlan] = useState(0); // which of the plans is applied
  const [show, setShow] = useState<Shown>('all');
  const [back, setBack] = useState(false);
  const all = policies.data?.policies ?? [];
  const policy = s.policy ?? all.find((p) => p.default)?.name ?? '';
  const orders = s.order ? s.order.split(',').filter(Boolean) : [];
  const mine = may('run a policy');
  // What was rehearsed is there when one comes back to the page, and what is being rehearsed goes on while one is away.
  const shown = `${s.policy ?? ''} ${s.compare ?? ''} ${s.order ?? ''} ${s.channel ?? ''} ${s.customer ?? ''} ${s.listed ?? ''}`;
  const [view, setView] = useKept<View>('rehearsal', shown);
  const [running, setRunning] = useKept<Running>('rehearsal', 'running');
  const progress = useProgress(running?.key);

  const rehearse = async (because = '') => {
    const key = crypto.randomUUID();
    const stop = new AbortController();
    setRunning({ key, what: t`Working it out`, stop });
    setWhy(because);
    setDone('');
    try {
      const v = await ask(
        client.POST('/api/rehearse-run', {
          params: { header: { 'Progress-Key': key } },
          body: {
            policy,
            compare: s.compare,
            scope: orders.length ? { orders, listed: s.listed === 'yes' } : { channel: s.channel, customer: s.customer },
          },
          signal: stop.signal,
        }),
      );
      setView(v);
      setPlan((p) => Math.min(p, v.plans.length - 1));
      setShow(v.plans.length > 1 && v.differ > 0 ? 'differ' : 'all');
    } catch (e) {
      if (!stop.signal.aborted) setWhy((e as Error).message);
    }
    setRunning(undefined);
  };
  const apply = async () => {
    const p = view?.plans[plan];
    if (!p || running) return;
    const key = keyFor('/api/apply-run', { plan: p.key });
    const stop = new AbortController();
    setRunning({ key, what: t`Applying`, stop });
    try {
      const o = await command('/api/apply-run', { plan: p.key }, undefined, key, stop.signal);
      setRunning(undefined);
      if (wasStopped(o)) return tell({ text: o.sentence });
      tell({ text: o.sentence, documents: o.documents, undo: o.command });
      setView(undefined);
      setDone(o.sentence);
      setWhy('');
    } catch (e) {
      setRunning(undefined);
      // What has changed since is said, and the plan is made anew.
      if (e instanceof Refused && e.status === 409) void rehearse(e.message);
      else setWhy((e as Error).message);
    }
    void queries.invalidateQueries();
  };
  const before = useRef(shown);
  useEffect(() => {
    if (before.current !== shown) {
      before.current = shown;
      setDone('');
      setWhy('');
    }
  }, [shown]);
  const lines = useMemo(() => (view?.lines ?? []).filter((l) => fits(l, show, plan)), [view, show, plan]);
  const [row, setRow] = useState<Schemas['RunLine']>();
  const can = !!view && mine && !running && (view.plans[plan]?.takes ?? 0) > 0;
  useKey('e', t`Rehearse`, () => void rehearse(), { enabled: mine && !running });
  useKey('1, 2', t`Which plan is applied`, (e) => setPlan(Math.min(Number(e.key), view?.plans.length ?? 1) - 1), {
    enabled: (view?.plans.length ?? 0) > 1,
  });
  const chosen = view?.plans[plan];
  return (
    <Page
      fill={view !== undefined}
      aside={
        view && row ? (
          <>
            <section className="pb-3">
              <h2 className="text-lead">{t`Why`}</h2>
              {row.in.map((x, i) => (
                <p key={i} className="mt-1">
                  {row.in.length > 1 && <b>{view.plans[i]?.policy}: </b>}
                  {say(x.why)}
                </p>
              ))}
            </section>
            <div className="border-t border-line pt-3">
              <ItemAside sku={row.sku} warehouse={row.warehouse} />
            </div>
            <OrderAside number={row.order} />
          </>
        ) : (
          <p className="text-mute">{t`Rehearse a policy to see, line by line, who gets what and why.`}</p>
        )
      }
      tray={
        view &&
        chosen && (
          <>
            <span>
              <Trans>
                <b>Rehearsed</b> {chosen.policy}: {plural(chosen.all.units, 'unit')} on {plural(chosen.takes, 'line')}
              </Trans>
            </span>
            <span>
              <Trans>
                Orders that can go whole <b>{showNum(chosen.all.complete)}</b> of {showNum(chosen.all.orders)}
              </Trans>
            </span>
            <span>
              <Trans>
                Late lines{' '}
                <b>
                  {showNum(view.before.late_lines)} → {showNum(chosen.all.late_lines)}
                </b>
              </Trans>
            </span>
            <span className="ml-auto flex items-center gap-2">
              <Act keys="esc" does={t`Discard the plan`} look="quiet" off={!!running} run={() => setView(undefined)}>
                {t`Discard`}
              </Act>
              <Act
                keys="a"
                does={t`Apply the plan`}
                why={chosen.takes === 0 ? t`It allocates nothing.` : ''}
                off={!can}
                run={() => void apply()}
              >
                <Trans>Apply {view.plans.length > 1 ? chosen.policy : ''}</Trans>
              </Act>
            </span>
          </>
        )
      }
    >
      <PageHead title={t`Allocation`} sub={t`Allocate free stock to open lines by a policy`}>
        <Link to="/policies" className="btn btn-sm">
          {t`Policies`}
        </Link>
        {may('give back') && (policies.data?.allocated.length ?? 0) > 0 && (
          <button className="btn btn-sm" onClick={() => setBack(true)}>
            {t`Give everything back…`}
          </button>
        )}
      </PageHead>
      <form
        className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          void rehearse();
        }}
      >
        <label className="flex items-center gap-1.5">
          {t`Policy`}
          <select className="word" value={policy} onChange={(e) => set({ policy: e.target.value })}>
            {all.map((p) => (
              <option key={p.id} title={say(p.words)}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5">
          {t`Compare with`}
          <select className="word" value={s.compare ?? ''} onChange={(e) => set({ compare: e.target.value || undefined })}>
            <option value="">{t`no other`}</option>
            {all
              .filter((p) => p.name !== policy)
              .map((p) => (
                <option key={p.id} title={say(p.words)}>
                  {p.name}
                </option>
              ))}
          </select>
        </label>
        {orders.length > 0 ? (
          <span className="flex items-center gap-2">
            <Trans>Scope: {plural(orders.length, 'chosen order')}</Trans>
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={s.listed === 'yes'}
                onChange={(e) => set({ listed: e.target.checked ? 'yes' : undefined })}
              />
              {t`in the order listed`}
            </label>
            <button type="button" className="btn btn-xs btn-pill" onClick={() => set({ order: undefined, listed: undefined })}>
              {t`All open lines instead`}
            </button>
          </span>
        ) : (
          <label className="flex items-center gap-1.5">
            {t`Scope`}
            <select className="word" value={s.channel ?? ''} onChange={(e) => set({ channel: e.target.value || undefined })}>
              <option value="">{t`all open lines`}</option>
              {(policies.data?.channels ?? []).map((c) => (
                <option key={c} value={c}>
                  {t`channel ${c}`}
                </option>
              ))}
            </select>
            {s.customer && (
              <button type="button" className="btn btn-xs btn-pill" onClick={() => set({ customer: undefined })}>
                <Trans>customer {s.customer} ×</Trans>
              </button>
            )}
          </label>
        )}
        <button className={`btn btn-sm ${view ? '' : 'btn-primary'}`} disabled={!mine || !!running}>
          {t`Rehearse`} <Key>E</Key>
        </button>
        {!mine && <span className="text-mute">{t`Allocation runs are for a coordinator.`}</span>}
      </form>
      {running && (
        <div className="mb-3 max-w-[520px]" role="status">
          <p className="flex items-center gap-3">
            <span>
              {progress?.step ?? running.what}
              {progress && progress.total > 0 && ` · ${plural(progress.total, 'line')}`}…
            </span>
            <button className="btn btn-sm" onClick={() => running.stop.abort()}>
              {t`Cancel`}
            </button>
          </p>
          <progress className="progress mt-1 w-full" aria-label={t`Progress`} />
        </div>
      )}
      {why && (
        <p className="alert note-box mb-3" role="alert">
          <span className="late">{view ? t`Not applied. ` : ''}</span>
          {why}
        </p>
      )}
      {view ? (
        <>
          <div className="max-h-[45%] shrink-0 overflow-auto">
            <RunTotals v={view} plan={plan} setPlan={setPlan} />
          </div>
          <RunLines v={view} lines={lines} plan={plan} show={show} setShow={setShow} focus={setRow} />
        </>
      ) : (
        !running && (
          <>
            {done ? (
              <Empty title={done}>
                <Trans>
                  What was allocated can go to the floor:{' '}
                  <Link to="/release" className="ref">
                    release it
                  </Link>
                  . What is short is listed under{' '}
                  <Link to="/shortages" className="ref">
                    Shortages
                  </Link>
                  .
                </Trans>
              </Empty>
            ) : (
              <Empty title={t`Nothing is rehearsed yet, and nothing is changed by rehearsing.`}>
                <Trans>
                  {say(all.find((p) => p.name === policy)?.words)} Choose a second policy to compare them on the same book.
                </Trans>
              </Empty>
            )}
            <PastRuns />
          </>
        )
      )}
      {back && <GiveBackAll rows={policies.data?.allocated ?? []} close={() => setBack(false)} />}
    </Page>
  );
}

function fits(l: Schemas['RunLine'], show: Shown, plan: number): boolean {
  const x = l.in[plan];
  if (!x) return false;
  switch (show) {
    case 'differ':
      return l.differs;
    case 'lack':
      return x.takes < l.wanted;
    case 'take':
      return x.takes > 0;
    default:
      return true;
  }
}
