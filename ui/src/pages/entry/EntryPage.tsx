import { useQuery } from '@tanstack/react-query';
import { ask, client } from '../../api/call';
import { Page } from '../../parts/Page';
import { useList } from '../../parts/list';
import { Load } from '../../parts/states';
import { keptDraft, type Draft } from './draft';
import type { Mode } from './draft';
import { Entry } from './Entry';

/** A new order or quote; or one that is changed, or a quote that is accepted, in the same rows. */
export function EntryPage() {
  const [s] = useList();
  if (s.order) return <Changed key={s.order} number={s.order} />;
  if (s.quote) return <Quoted key={s.quote + (s.state ?? '')} number={s.quote} accept={s.state === 'accept'} />;
  const brought: Draft | undefined =
    s.sku || s.customer
      ? {
          customer: s.customer,
          service: s.service,
          wanted: s.wished,
          lines: s.sku ? [{ sku: s.sku, qty: Number(s.qty) || 0, warehouse: s.warehouse }] : [],
        }
      : undefined;
  return <Entry key={JSON.stringify(brought ?? '')} mode={{ kind: 'new' }} begin={brought ?? keptDraft() ?? { lines: [] }} />;
}

function Changed({ number }: { number: string }) {
  const draft = useQuery({
    queryKey: ['draft-of', number],
    queryFn: () => ask(client.GET('/api/orders/{number}/draft', { params: { path: { number } } })),
    staleTime: Infinity,
    gcTime: 0,
  });
  return <Loaded of={draft} mode={{ kind: 'order', number }} />;
}

function Quoted({ number, accept }: { number: string; accept: boolean }) {
  const draft = useQuery({
    queryKey: ['draft-of', number, accept],
    queryFn: async () => {
      const q = await ask(client.GET('/api/quotes/{number}', { params: { path: { number } } }));
      return accept ? q.rest : { ...q.draft, seen: q.version };
    },
    staleTime: Infinity,
    gcTime: 0,
  });
  return <Loaded of={draft} mode={{ kind: accept ? 'accept' : 'quote', number }} />;
}

function Loaded({ of, mode }: { of: ReturnType<typeof useQuery<Draft>>; mode: Mode }) {
  // What is being typed stays, whatever happens elsewhere: a change is told when it is saved.
  if (of.data) return <Entry mode={mode} begin={of.data} />;
  return (
    <Page>
      <Load of={of}>{() => null}</Load>
    </Page>
  );
}
