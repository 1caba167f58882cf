import { useQueryClient } from '@tanstack/react-query';
import { Link, Outlet, useNavigate } from '@tanstack/react-router';
import { Moon, Plus, Search, Sun } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { client } from '../api/call';
import { Dialog } from '../parts/Dialog';
import { Key } from '../parts/bits';
import { useKey, useKnownKeys } from './keys';
import { useLive } from './live';
import { Palette } from './palette';
import { useSigned } from './session';
import { Strip } from './strip';
import { useTheme } from './theme';

const quiet = [
  { to: '/', text: 'Today' },
  { to: '/contested', text: 'Contested' },
  { to: '/run', text: 'Run' },
  { to: '/orders', text: 'Orders' },
  { to: '/quotes', text: 'Quotes' },
  { to: '/items', text: 'Items' },
  { to: '/inbound', text: 'Inbound' },
  { to: '/customers', text: 'Customers' },
  { to: '/import', text: 'Import' },
  { to: '/settings', text: 'Settings' },
] as const;

/** What stands around every page: the strip, one quiet row, and the page beneath. */
export function Frame() {
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  const up = useLive();
  const go = useNavigate();
  useKey('mod+k', 'Find anything, go anywhere', () => setPalette(true), { typing: true });
  useKey('/', 'Find anything', () => setPalette(true));
  useKey('?', 'What the keys do here', () => setHelp(true));
  useKey('n', 'New order or quote', () => void go({ to: '/entry' }));
  const goes: [string, string, () => void][] = [
    ['g>t', 'Go to Today', () => void go({ to: '/' })],
    ['g>o', 'Go to Orders', () => void go({ to: '/orders' })],
    ['g>q', 'Go to Quotes', () => void go({ to: '/quotes' })],
    ['g>b', 'Go to what is to be bought', () => void go({ to: '/buying' })],
    ['g>c', 'Go to what is contested', () => void go({ to: '/contested' })],
    ['g>u', 'Go to running a policy', () => void go({ to: '/run' })],
    ['g>w', 'Go to what waits for stock (open)', () => void go({ to: '/open' })],
    ['g>a', 'Go to what can be promised', () => void go({ to: '/promise' })],
    ['g>r', 'Go to Release', () => void go({ to: '/release' })],
    ['g>f', 'Go to the floor', () => void go({ to: '/floor' })],
    ['g>p', 'Go to packing', () => void go({ to: '/packing' })],
    ['g>d', 'Go to the dock', () => void go({ to: '/dock' })],
    ['g>i', 'Go to Inbound', () => void go({ to: '/inbound' })],
  ];
  return (
    <div className="grid h-full min-w-[1120px] grid-rows-[auto_auto_1fr]">
      {goes.map(([k, does, fn]) => (
        <GoKey key={k} k={k} does={does} fn={fn} />
      ))}
      <header className="flex items-center gap-5 border-b border-line bg-card px-5 py-1.5">
        <Link to="/" className="flex w-[132px] items-center gap-2 font-head text-[17px] font-bold">
          <span aria-hidden className="flex">
            {['allocated', 'released', 'packed', 'delivered'].map((s) => (
              <span
                key={s}
                className="h-2 w-[5px] first:rounded-l-sm last:rounded-r-sm"
                style={{ background: `var(--st-${s})` }}
              />
            ))}
          </span>
          Journeyman
        </Link>
        <Strip />
        <Who />
      </header>
      <div className="flex h-[44px] items-center gap-5 border-b border-line px-5">
        <nav aria-label="Pages" className="flex gap-5">
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
        {!up && (
          <span className="late" role="status">
            Connection lost, trying again. What you see may be old.
          </span>
        )}
        <Link to="/entry" className="act ml-auto">
          <Plus size={14} aria-hidden /> New order <Key>N</Key>
        </Link>
        <button className="field flex w-[262px] cursor-pointer items-center gap-2 text-mute" onClick={() => setPalette(true)}>
          <Search size={14} aria-hidden /> Find a number or name <span className="ml-auto" />
          <Key>Ctrl K</Key>
        </button>
        <button className="cursor-pointer" aria-label="What the keys do" onClick={() => setHelp(true)}>
          <Key>?</Key>
        </button>
      </div>
      <div className="min-h-0">
        <Outlet />
      </div>
      {palette && <Palette close={() => setPalette(false)} />}
      {help && <KeysHelp close={() => setHelp(false)} />}
    </div>
  );
}

function GoKey({ k, does, fn }: { k: string; does: string; fn: () => void }) {
  useKey(k, does, fn);
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
    <div className="dropdown dropdown-end">
      <button
        tabIndex={0}
        aria-label={`Signed in as ${me.name}, ${me.role}`}
        className="h-8 w-8 cursor-pointer rounded-full border-[1.5px] border-ink text-[11px] font-bold"
      >
        {initials}
      </button>
      <div tabIndex={0} className="dropdown-content z-50 mt-2 w-56 rounded-box border border-line bg-card p-3 shadow-lg">
        <p className="font-semibold">{me.name}</p>
        <p className="mb-3 text-mute">
          {me.role}
          {me.demo && ' in the demo'}
        </p>
        <button className="act mb-2 w-full" onClick={flip}>
          {theme === 'day' ? <Moon size={14} aria-hidden /> : <Sun size={14} aria-hidden />} {theme === 'day' ? 'Dark' : 'Light'}
        </button>
        <Link to="/people" className="act mb-2 w-full">
          {may('manage people') ? 'People' : 'Your sign-in'}
        </Link>
        <button className="act w-full" onClick={() => void out()}>
          {me.demo ? 'Switch user' : 'Sign out'}
        </button>
      </div>
    </div>
  );
}

function KeysHelp({ close }: { close: () => void }) {
  const known = useKnownKeys();
  return (
    <Dialog title="What the keys do here" close={close} wide>
      <div className="grid max-h-[60vh] grid-cols-2 gap-x-8 gap-y-1.5 overflow-y-auto">
        {known.map((k) => (
          <div key={k.keys + k.does} className="flex items-center justify-between gap-3">
            <span>{k.does}</span>
            <span className="flex gap-1">
              {k.keys.split(',').map((one) => (
                <Key key={one}>{keyName(one.trim())}</Key>
              ))}
            </span>
          </div>
        ))}
      </div>
      <div className="mt-4 text-right">
        <button className="act" onClick={close} autoFocus>
          Close
        </button>
      </div>
    </Dialog>
  );
}

function keyName(k: string): string {
  const names: Record<string, string> = { ArrowDown: '↓', ArrowUp: '↑', space: 'Space', enter: 'Enter', esc: 'Esc' };
  return names[k] ?? k.replace('mod+', 'Ctrl ').replace('shift+', '⇧ ').replace('>', ' then ').toUpperCase();
}

/** A page: the working list in the middle, the lookaside at the right, the tray beneath. */
export function Page({ children, aside, tray }: { children: ReactNode; aside?: ReactNode; tray?: ReactNode }) {
  return (
    <div
      className={`grid h-full grid-rows-[minmax(0,1fr)_auto] ${aside === undefined ? 'grid-cols-1' : 'grid-cols-[minmax(0,1fr)_316px]'}`}
    >
      <main className="min-w-0 overflow-auto px-5 pt-3 pb-4" tabIndex={-1}>
        {children}
      </main>
      {aside !== undefined && (
        <aside aria-label="Lookaside" className="overflow-y-auto border-l border-line bg-card px-4 py-3">
          {aside}
        </aside>
      )}
      {tray && (
        <section
          aria-label="Tray"
          className="col-span-full flex h-[52px] items-center gap-6 bg-neutral px-5 text-neutral-content"
        >
          {tray}
        </section>
      )}
    </div>
  );
}
