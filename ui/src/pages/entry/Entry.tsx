import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { DayField } from '../../parts/DayField';
import { useNavigate } from '@tanstack/react-router';
import { useEffect, useRef, useState } from 'react';
import { ask, client, type Outcome } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { useToasts } from '../../base/toasts';
import { Fault, Key, PageHead } from '../../parts/bits';
import { plural, showDay, showMoney, showShare } from '../../base/format';
import { RecallDialog } from '../../parts/RecallDialog';
import { useCommand } from '../../parts/useCommand';
import { LineAside } from './Aside';
import {
  asked,
  isBlank,
  isFilled,
  keepDraft,
  newLine,
  useAnswer,
  type Draft,
  type Sought,
  type Typed,
  type View,
  type Mode,
} from './draft';
import { Grid } from './Grid';
import { Head } from './Head';
import { say } from '../../base/say';

const titles: Record<Mode['kind'], (number: string) => string> = {
  new: () => t`New order or quote`,
  order: (n) => t`Change ${n}`,
  quote: (n) => t`Change the quote ${n}`,
  accept: (n) => t`Accept ${n}`,
};

/** Says whether what is shown of the promises is newer than a person can have read. */
function useJustNow(view?: View): () => boolean {
  const shown = JSON.stringify(view?.lines.map((l) => [l.arrives, l.short, l.earliest]));
  const since = useRef(0);
  useEffect(() => {
    since.current = performance.now();
  }, [shown]);
  return () => performance.now() - since.current < 500;
}

export function Entry({ mode, begin }: { mode: Mode; begin: Draft }) {
  const number = mode.kind === 'new' ? '' : mode.number;
  const [head, setHead] = useState<Draft>(() => ({ ...begin, lines: undefined }));
  const [lines, setLines] = useState<Typed[]>(() => [
    ...(begin.lines ?? []).map((l) => newLine(l)),
    ...(mode.kind === 'accept' ? [] : [newLine()]),
  ]);
  const [focus, setFocus] = useState(() => lines[0]?.key ?? 0);
  const [why, setWhy] = useState('');
  const [expires, setExpires] = useState('');
  const draft = asked(head, lines);
  const { view, error, fresh } = useAnswer(draft);
  const filled = lines.filter(isFilled);
  const [customer, setCustomer] = useState<Sought>({});
  const soughts = [customer, ...lines].filter((s) => s.sought !== undefined);
  const at = filled.findIndex((l) => l.key === focus);
  const item = useRef<HTMLInputElement>(null);

  const patch = (key: number, p: Partial<Typed>) =>
    setLines((was) => {
      const next = was.map((l) => (l.key === key ? { ...l, ...p } : l));
      const last = next[next.length - 1];
      return last && !isBlank(last) && mode.kind !== 'accept' ? [...next, newLine()] : next;
    });

  useEffect(() => {
    if (mode.kind === 'new') keepDraft(asked(head, lines));
  }, [mode.kind, head, lines]);

  return (
    <Page
      aside={
        <LineAside
          line={filled[at]}
          view={at >= 0 ? view?.lines[at] : undefined}
          whole={view?.ship_rule === 'whole'}
          currency={view?.currency ?? ''}
          patch={(p) => filled[at] && patch(filled[at].key, p)}
        />
      }
      tray={
        <Tray
          mode={mode}
          number={number}
          draft={draft}
          view={view}
          fresh={fresh && soughts.every((s) => s.unfound)}
          unfound={soughts.find((s) => s.unfound)?.unfound}
          finding={soughts.some((s) => !s.unfound)}
          why={why}
          expires={expires}
          seen={(seen) => setHead((was) => ({ ...was, seen }))}
          relabel={(relabel) => setHead((was) => ({ ...was, relabel: relabel || undefined }))}
          clear={() => {
            setHead({});
            setCustomer({});
            setLines([newLine()]);
          }}
        />
      }
    >
      <PageHead title={titles[mode.kind](number)} sub={error ? <span className="late">{error.message}</span> : undefined}>
        {mode.kind === 'order' && (
          <input
            className="input input-sm w-[240px]"
            aria-label={t`Why it is changed`}
            placeholder={t`Why? It stays in the trail`}
            maxLength={500}
            value={why}
            onChange={(e) => setWhy(e.target.value)}
          />
        )}
        {(mode.kind === 'new' || mode.kind === 'quote') && (
          <span className="flex items-center gap-1.5 text-mute">
            {t`as a quote, it is valid until`}
            <DayField label={t`The quote is valid until`} value={expires || (view?.expires ?? '')} set={setExpires} />
          </span>
        )}
      </PageHead>
      <Head
        head={head}
        set={(p) => setHead((was) => ({ ...was, ...p }))}
        view={view}
        fixed={mode.kind === 'order' || mode.kind === 'accept'}
        quote={mode.kind === 'quote'}
        start={mode.kind === 'new' && !head.customer}
        sought={customer}
        setSought={setCustomer}
        chose={() => item.current?.focus()}
      />
      <Grid
        mode={mode.kind}
        lines={lines}
        setLines={setLines}
        view={view}
        focus={focus}
        setFocus={setFocus}
        patch={patch}
        first={item}
        start={mode.kind !== 'new' || head.customer !== undefined}
      />
    </Page>
  );
}

function Tray({
  mode,
  number,
  draft,
  view,
  fresh,
  unfound,
  finding,
  why,
  expires,
  seen,
  relabel,
  clear,
}: {
  mode: Mode;
  number: string;
  draft: Draft;
  view?: View;
  fresh: boolean;
  unfound?: string; // what was typed and cannot be found, as a sentence
  finding: boolean; // something that was typed is still being found
  why: string;
  expires: string;
  /** The order is as it was at that version, as far as this person knows. */
  seen: (version: number | undefined) => void;
  /** What is packed goes as the order does from now on, with new labels, or not. */
  relabel: (on: boolean) => void;
  clear: () => void;
}) {
  const { may } = useSigned();
  const go = useNavigate();
  const toOrder = (o: Outcome) => {
    if (mode.kind === 'new') keepDraft(undefined);
    const order = o.documents?.find((d) => d.kind === 'order');
    if (order) void go({ to: '/orders/$number', params: { number: order.number } });
  };
  const toQuote = (o: Outcome) => {
    if (mode.kind === 'new') keepDraft(undefined);
    const quote = o.documents?.find((d) => d.kind === 'quote');
    if (quote) void go({ to: '/quotes/$number', params: { number: quote.number } });
  };
  const enter = useCommand('/api/enter-order', toOrder);
  const change = useCommand('/api/change-order', toOrder);
  const accept = useCommand('/api/accept-quote', toOrder);
  const quote = useCommand('/api/make-quote', toQuote);
  const busy = enter.busy || change.busy || accept.busy || quote.busy;
  const waits = useRef<(() => void) | undefined>(undefined);

  const missing = view?.missing[0];
  const [recalling, setRecalling] = useState(false);
  const verb = mode.kind === 'order' ? 'change an order' : mode.kind === 'quote' ? 'quote' : 'enter an order';
  const not = !may(verb) ? t`Orders are entered by sales and coordinators` : (unfound ?? (missing && say(missing.said)));
  // What is saved is what was shown: the promises beside the lines go with it.
  const shown: Draft = { ...draft, lines: draft.lines?.map((l, i) => ({ ...l, shown: view?.lines[i]?.parts })) };
  const acts = {
    new: () => enter.run({ ask: shown }),
    order: () => change.run({ ask: shown, reason: why }),
    accept: () => accept.run({ ask: shown }),
    quote: () =>
      quote.run({ ask: { number, seen: draft.seen, expires: expires || undefined, draft: { ...shown, seen: undefined } } }),
  };
  const asQuote = () => quote.run({ ask: { expires: expires || undefined, draft: shown } });
  const can = not === undefined && !busy;
  const justNow = useJustNow(view);
  const { tell } = useToasts();
  // What is late is never taken unseen: not when the key came before the answer, nor when a
  // colleague changed it under the finger.
  const look = (fn: () => void) => {
    if (view && view.late > 0 && justNow())
      tell({ text: t`This has only just changed. Look at what is late; the key takes it so.` });
    else fn();
  };
  // A key that is pressed while the last change is still being worked out waits for the answer.
  const press = (fn: () => void) => {
    if (fresh && can) look(fn);
    else if (!fresh) waits.current = fn;
  };
  useEffect(() => {
    if (!fresh || !waits.current) return;
    waits.current = undefined;
    if (can) look(acts[mode.kind]);
  });
  const texts = { new: t`Enter the order`, order: t`Change the order`, accept: t`Make the order`, quote: t`Change the quote` };
  useKey('mod+enter', texts[mode.kind], () => press(acts[mode.kind]), { typing: true });
  useKey('mod+shift+enter', t`Keep it as a quote`, () => fresh && can && asQuote(), {
    typing: true,
    enabled: mode.kind === 'new',
  });
  return (
    <>
      <span className="font-semibold whitespace-nowrap">{view ? showMoney(view.value_minor, view.currency) : '…'}</span>
      {view?.data_fault ? (
        <Fault>{view.data_fault}</Fault>
      ) : (
        view?.margin_bp !== undefined && (
          <span className="whitespace-nowrap opacity-80">
            <Trans>margin {showShare(view.margin_bp)}</Trans>
          </span>
        )
      )}
      {view && view.in_time + view.late > 0 && (
        <span className="whitespace-nowrap opacity-80">
          {view.late === 0
            ? t`all there by ${showDay(view.wanted)}`
            : t`${plural(view.in_time, 'line')} in time, ${view.late} late${view.last ? t`, the last ${showDay(view.last)}` : ''}`}
        </span>
      )}
      {missing?.recall && mode.kind === 'order' && may('recall') && (
        <button className="btn btn-sm btn-quiet ml-auto" onClick={() => setRecalling(true)}>
          {t`Recall…`}
        </button>
      )}
      {missing?.relabel && mode.kind === 'order' && (
        <button className="btn btn-sm btn-quiet" onClick={() => relabel(true)}>
          {t`Relabel what is packed`}
        </button>
      )}
      {recalling && (
        <RecallDialog
          order={number}
          first="allocated"
          close={() => setRecalling(false)}
          done={() => {
            setRecalling(false);
            // What this person did themselves is no reason to refuse what they typed before.
            void ask(client.GET('/api/orders/{number}/draft', { params: { path: { number } } })).then((now) => seen(now.seen));
          }}
        />
      )}
      <span className={`truncate opacity-80 ${missing?.recall ? '' : 'ml-auto'}`} role="status" title={not}>
        {finding ? t`Finding what was typed …` : (not ?? say(view?.relabels))}
      </span>
      {draft.relabel && (
        <button className="btn btn-sm btn-quiet" onClick={() => relabel(false)}>
          {t`Keep its labels`}
        </button>
      )}
      {mode.kind === 'new' && (draft.customer || (draft.lines?.length ?? 0) > 0) && (
        <button className="btn btn-sm btn-quiet" onClick={clear}>
          {t`Clear`}
        </button>
      )}
      {mode.kind === 'new' && (
        <button
          className="btn btn-sm btn-quiet"
          disabled={!can || !fresh || !may('quote')}
          onClick={asQuote}
          title={
            view && view.value_minor > view.limit_minor
              ? t`Worth more than ${showMoney(view.limit_minor, view.currency)}: a manager has to approve it`
              : undefined
          }
        >
          {t`Save as quote`} <Key>{t`Ctrl ⇧ Enter`}</Key>
        </button>
      )}
      <button className="btn btn-sm" disabled={!can || !fresh} onClick={acts[mode.kind]}>
        {texts[mode.kind]} <Key>{t`Ctrl Enter`}</Key>
      </button>
    </>
  );
}
