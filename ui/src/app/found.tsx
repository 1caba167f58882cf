import { t } from '@lingui/core/macro';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { Command } from 'cmdk';
import { useEffect, useRef } from 'react';
import { questions } from '../base/questions';
import { type Schemas } from '../api/call';
import { lotSearch } from '../parts/lots';
import { Dialog } from '../parts/Dialog';
import { sought } from './sought';

const pages: [string, string][] = [
  ['/', t`Today`],
  ['/shortages', t`Shortages: who gets the stock`],
  ['/allocation', t`Allocation: run a policy`],
  ['/policies', t`Policies`],
  ['/open', t`Open lines`],
  ['/release', t`Allocated: release to the floor`],
  ['/floor', t`Released: pick lists`],
  ['/packing', t`Picked: packing`],
  ['/dock', t`Packed and shipped: the dock`],
  ['/entry', t`New order or quote`],
  ['/promise', t`What can be promised, and by when`],
  ['/orders', t`Orders`],
  ['/quotes', t`Quotes`],
  ['/buying', t`Requests to buy`],
  ['/items', t`Items`],
  ['/inbound', t`Inbound: receive`],
  ['/customers', t`Customers`],
  ['/journal', t`Journal: everything that was done`],
  ['/papers', t`Papers: what was printed`],
  ['/lots', t`Lots: where they are, and who got them`],
  ['/import', t`Import CSV files`],
  ['/settings', t`Settings: warehouses, closed days, services`],
  ['/people', t`People: roles, passwords, sessions`],
  ['/licences', t`Licences of what ships with Journeyman`],
];

const paths = {
  order: '/orders/$number',
  item: '/items/$number',
  customer: '/customers/$number',
  quote: '/quotes/$number',
  'pick list': '/floor/$number',
  shipment: '/shipments/$number',
} as const;
const isPath = (kind: string): kind is keyof typeof paths => kind in paths;

interface Props {
  words: string;
  setWords: (words: string) => void;
  close: () => void;
}

/** The dialog in which anything is found. */
export function FindDialog(p: Props) {
  return (
    <Dialog title={t`Find`} close={p.close} wide>
      <Found {...p} />
    </Dialog>
  );
}

/** What is found, and the field in which it is looked for. */
function Found({ words, setWords, close }: Props) {
  const go = useNavigate();
  const hits = useQuery({
    ...questions.search(words),
    placeholderData: keepPreviousData,
  });
  const wanted = words.trim().toLowerCase();
  const shown = pages.filter(([, text]) => text.toLowerCase().includes(wanted));
  const leave = (fn: () => unknown) => {
    close();
    void fn();
  };
  const open = (h: Schemas['Hit']) =>
    leave(() =>
      h.kind === 'lot'
        ? go({ to: '/lots', search: lotSearch(h.of ?? '', h.number) })
        : h.kind === 'sheet'
          ? go({ to: '/papers', search: { q: h.number, state: 'all' } })
          : isPath(h.kind)
            ? go({ to: paths[h.kind], params: { number: h.number } })
            : go({ to: '/inbound', search: { q: h.number } }),
    );
  // Enter may come before what is found, or before the list has marked its first: it takes the first then.
  const waits = useRef(false);
  const list = useRef<HTMLDivElement>(null);
  const fresh = words === '' || (hits.data !== undefined && !hits.isPlaceholderData);
  useEffect(() => {
    if (!waits.current || !fresh) return;
    waits.current = false;
    const first = hits.data?.[0];
    if (first) open(first);
  });
  return (
    <Command shouldFilter={false} label={t`Find anything`}>
      <Command.Input
        value={words}
        onValueChange={(w) => {
          waits.current = false;
          setWords(w);
        }}
        onKeyDown={(e) => {
          if (e.key !== 'Enter') return;
          const marked = list.current?.querySelector('[aria-selected="true"]');
          if (fresh && marked) return; // the list takes it
          e.preventDefault();
          e.stopPropagation();
          const first = words === '' ? undefined : hits.data?.[0];
          if (!fresh) waits.current = true;
          else if (first) open(first);
        }}
        autoFocus
        onFocus={(e) => e.currentTarget.setSelectionRange(words.length, words.length)}
        placeholder={sought}
        className="input input-sm w-full"
      />
      <Command.List ref={list} className="mt-2 h-[340px] overflow-y-auto">
        <Command.Empty className="py-4 text-mute">{words ? t`Nothing has “${words}” in its number or name.` : ''}</Command.Empty>
        {words &&
          hits.data?.map((h) => (
            <Row key={h.kind + h.number} value={h.kind + h.number} choose={() => open(h)}>
              <span className="w-20 text-mute">{h.kind}</span>
              <span className="w-32 font-semibold">{h.number}</span>
              <span className="truncate text-mute">{h.text}</span>
            </Row>
          ))}
        {shown.map(([to, text]) => (
          <Row key={to} value={to} choose={() => leave(() => go({ to }))}>
            <span className="w-20 text-mute">{t`page`}</span>
            <span>{text}</span>
          </Row>
        ))}
      </Command.List>
    </Command>
  );
}

function Row({ value, choose, children }: { value: string; choose: () => void; children: React.ReactNode }) {
  return (
    <Command.Item
      value={value}
      onSelect={choose}
      className={
        'flex h-8 cursor-pointer items-center gap-3 rounded-[5px] px-2 ' +
        'aria-selected:bg-focus-ground aria-selected:outline-1 aria-selected:outline-focus'
      }
    >
      {children}
    </Command.Item>
  );
}
