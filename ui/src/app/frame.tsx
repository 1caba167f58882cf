import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQueryClient } from '@tanstack/react-query';
import { Link, Outlet, useLocation, useNavigate, useRouterState } from '@tanstack/react-router';
import { History, Moon, Plus, Search, Sun } from 'lucide-react';
import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { client } from '../api/call';
import { Key } from '../parts/bits';
import { showClock } from '../base/format';
import { useKey } from '../base/keys/useKey';
import { waitsFor } from '../base/queue';
import { useFailed } from './useFailed';
import { useLive } from './live';
import { fetchDialogs, Palette } from './palette';
import { useSigned } from '../base/session';
import { Strip } from './strip';
import { useTheme } from './theme';

const Actions = lazy(() => fetchDialogs().then((m) => ({ default: m.Actions })));
const KeysHelp = lazy(() => fetchDialogs().then((m) => ({ default: m.KeysHelp })));

const quiet = [
  { to: '/', text: t`Today` },
  { to: '/shortages', text: t`Shortages` },
  { to: '/allocation', text: t`Allocation` },
  { to: '/orders', text: t`Orders` },
  { to: '/quotes', text: t`Quotes` },
  { to: '/items', text: t`Items` },
  { to: '/inbound', text: t`Inbound` },
  { to: '/customers', text: t`Customers` },
  { to: '/import', text: t`Import` },
  { to: '/settings', text: t`Settings` },
] as const;

/** Pages that also work on a narrow screen, by touch. */
const floorPages = ['/floor', '/packing', '/dock', '/shipments', '/inbound'];

/** Pages for one thing at a time, with nothing around them: what a scanner types is for them alone. */
const barePages = ['/pick', '/pack', '/receive', '/counts', '/put-back'];

/** What stands around every page: the strip, one quiet row, and the page beneath. */
export function Frame() {
  const since = useLive();
  const floor = useLocation({ select: (l) => floorPages.some((p) => l.pathname.startsWith(p)) });
  const { me } = useSigned();
  const queries = useQueryClient();
  // What was scanned before the page was loaded again is sent wherever one is.
  useEffect(() => {
    if (waitsFor(me.name)) void import('../pages/pick/useQueue').then((m) => m.ofPerson(me.name, queries));
  }, [me.name, queries]);
  const bare = useLocation({ select: (l) => barePages.some((p) => l.pathname === p || l.pathname.startsWith(p + '/')) });
  return bare ? <Outlet /> : <Whole since={since} floor={floor} />;
}

function Whole({ since, floor }: { since: number | undefined; floor: boolean }) {
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  const [actions, setActions] = useState(false);
  const go = useNavigate();
  useArrival();
  useKey('mod+k, /', t`Find anything, go anywhere`, () => setPalette(true), { ...everywhere, typing: true });
  useKey('shift+u', t`What you did last, to undo it`, () => setActions(true), everywhere);
  useKey('?', t`Keyboard shortcuts`, () => setHelp(true), everywhere);
  useKey('n', t`New order or quote`, () => void go({ to: '/entry' }), everywhere);
  const goes: [string, string, () => void][] = [
    ['g t', t`Today`, () => void go({ to: '/' })],
    ['g o', t`Orders`, () => void go({ to: '/orders' })],
    ['g q', t`Quotes`, () => void go({ to: '/quotes' })],
    ['g b', t`Requests to buy`, () => void go({ to: '/buying' })],
    ['g c', t`Shortages`, () => void go({ to: '/shortages' })],
    ['g u', t`Allocation`, () => void go({ to: '/allocation' })],
    ['g w', t`Open lines`, () => void go({ to: '/open' })],
    ['g a', t`Promise`, () => void go({ to: '/promise' })],
    ['g r', t`Release`, () => void go({ to: '/release' })],
    ['g f', t`Floor`, () => void go({ to: '/floor' })],
    ['g p', t`Packing`, () => void go({ to: '/packing' })],
    ['g d', t`Dock`, () => void go({ to: '/dock' })],
    ['g i', t`Inbound`, () => void go({ to: '/inbound' })],
    ['g j', t`Journal`, () => void go({ to: '/journal' })],
  ];
  return (
    <div
      data-floor={floor}
      className={`grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_1fr] ${floor ? 'min-w-0' : 'min-w-[1120px]'}`}
    >
      <a href="#page" className="skip" onClick={(e) => (e.preventDefault(), focusPage())}>
        {t`Skip to the page`}
      </a>
      {goes.map(([k, does, fn]) => (
        <GoKey key={k} k={k} does={does} fn={fn} />
      ))}
      <header className="flex items-center gap-5 border-b border-line bg-card px-5 py-1.5 max-[1000px]:gap-2 max-[1000px]:px-3">
        <Link to="/" className="flex w-[132px] shrink-0 items-center max-[1000px]:w-auto gap-2 font-head text-head font-bold">
          <span aria-hidden className="flex">
            {['allocated', 'released', 'packed', 'delivered'].map((s) => (
              <span
                key={s}
                className="h-2 w-[5px] first:rounded-l-sm last:rounded-r-sm"
                style={{ background: `var(--st-${s})` }}
              />
            ))}
          </span>
          {t`Journeyman`}
        </Link>
        <Strip />
        <Who />
      </header>
      <div className="flex min-h-[44px] items-center gap-5 border-b border-line px-5 max-[1000px]:px-3">
        <nav aria-label={t`Pages`} className="flex gap-5 max-[1119px]:min-w-0 max-[1119px]:flex-1 max-[1119px]:overflow-x-auto">
          {quiet.map((p) => (
            <Link
              key={p.to}
              to={p.to}
              activeOptions={{ exact: p.to === '/', includeSearch: false }}
              className="py-1 text-mute hover:text-ink aria-[current=page]:font-semibold aria-[current=page]:text-ink"
            >
              {p.text}
            </Link>
          ))}
        </nav>
        <Old since={since} />
        <Link to="/entry" className="btn btn-sm ml-auto max-[1000px]:hidden">
          <Plus size={14} aria-hidden /> {t`New order`} <Key>N</Key>
        </Link>
        <button
          className={
            'input input-sm flex w-[262px] cursor-pointer items-center gap-2 text-mute ' +
            'max-[1119px]:w-[190px] max-[1000px]:w-[110px]'
          }
          onClick={() => setPalette(true)}
        >
          <Search size={14} aria-hidden />
          <span className="truncate">
            <Trans>
              Find<span className="max-[1000px]:hidden"> a number or name</span>
            </Trans>
          </span>
          <span className="ml-auto" />
          <span className="max-[1119px]:hidden">
            <Key>{t`Ctrl K`}</Key>
          </span>
        </button>
        <button
          className="cursor-pointer text-mute hover:text-ink"
          aria-label={t`What you did last`}
          aria-keyshortcuts="Shift+U"
          title={t`What you did last, to undo it (⇧U)`}
          onClick={() => setActions(true)}
        >
          <History size={16} aria-hidden />
        </button>
        <button className="cursor-pointer" aria-label={t`Keyboard shortcuts`} onClick={() => setHelp(true)}>
          <Key>?</Key>
        </button>
      </div>
      <div className="min-h-0">
        <Outlet />
      </div>
      {palette && <Palette close={() => setPalette(false)} />}
      <Suspense>
        {actions && <Actions close={() => setActions(false)} />}
        {help && <KeysHelp close={() => setHelp(false)} />}
      </Suspense>
    </div>
  );
}

/** Since when what is shown may be old: colleagues are not heard, or some of it could not be asked for again. */
function Old({ since }: { since: number | undefined }) {
  const queries = useQueryClient();
  const failed = useFailed();
  const at = since ?? failed;
  if (at === undefined) return null;
  return (
    <span className="late" role="status">
      <Trans>
        {since === undefined ? t`Not all could be asked for again.` : t`Connection lost, trying again.`} What you see is as it was
        at {showClock(at)}.
      </Trans>
      {since === undefined && (
        <button
          className="btn btn-sm ml-2"
          onClick={() => void queries.refetchQueries({ type: 'active', predicate: (q) => q.state.status === 'error' })}
        >
          {t`Ask again`}
        </button>
      )}
    </span>
  );
}

function GoKey({ k, does, fn }: { k: string; does: string; fn: () => void }) {
  useKey(k, does, fn, { group: t`Go to` });
  return null;
}

function Who() {
  const { me, may } = useSigned();
  const [theme, flip] = useTheme();
  const queries = useQueryClient();
  const initials = me.name
    .split(' ')
    .map((w) => w[0])
    .join('')
    .slice(0, 2);
  const out = async () => {
    await client.POST('/api/sign-out');
    queries.clear();
    location.assign('/');
  };
  return (
    <>
      <button
        popoverTarget="who"
        aria-haspopup="dialog"
        aria-label={t`Signed in as ${me.name}, ${me.role}`}
        className="h-8 w-8 shrink-0 cursor-pointer rounded-full border-[1.5px] border-ink text-tiny font-bold"
      >
        {initials}
      </button>
      <div
        id="who"
        popover="auto"
        role="dialog"
        aria-label={t`Signed in`}
        className="fixed top-[58px] right-5 left-auto m-0 w-56 rounded-box border border-line bg-card p-3 text-ink shadow-lg"
      >
        <p className="font-semibold">{me.name}</p>
        <p className="mb-3 text-mute">
          {me.role}
          {me.demo && t` in the demo`}
        </p>
        <button className="btn btn-sm mb-2 w-full" onClick={flip}>
          {theme === 'day' ? <Moon size={14} aria-hidden /> : <Sun size={14} aria-hidden />}{' '}
          {theme === 'day' ? t`Dark` : t`Light`}
        </button>
        <Link to="/people" className="btn btn-sm mb-2 w-full">
          {may('manage people') ? t`People` : t`Your sign-in`}
        </Link>
        <button className="btn btn-sm w-full" onClick={() => void out()}>
          {me.demo ? t`Switch user` : t`Sign out`}
        </button>
      </div>
    </>
  );
}

const everywhere = { group: t`Everywhere` };

const focusPage = () => document.getElementById('page')?.focus({ preventScroll: true });

/** On another page the focus goes to it, unless one of its fields has taken it. */
function useArrival() {
  const path = useRouterState({ select: (s) => s.resolvedLocation?.pathname }); // of the page that is drawn already
  const before = useRef(path);
  useEffect(() => {
    const from = before.current;
    before.current = path;
    if (from === undefined || from === path) return;
    if (!document.activeElement?.closest('#page, dialog')) focusPage();
  }, [path]);
}
