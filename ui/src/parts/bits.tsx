import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Link } from '@tanstack/react-router';
import { AlertTriangle, PauseCircle } from 'lucide-react';
import { useEffect, useRef, type ReactNode } from 'react';
import { showDay } from '../base/format';

export function Tier({ n }: { n: number }) {
  return (
    <span
      className={
        'inline-flex h-[19px] w-[19px] items-center justify-center rounded-[4px] border text-tiny font-bold ' +
        (n === 1 ? 'border-ink bg-ink text-card' : 'border-ink/60')
      }
      title={t`Tier ${n}`}
      aria-label={t`Tier ${n}`}
    >
      {n}
    </span>
  );
}

export function Day({ iso, late }: { iso: string; late?: boolean }) {
  if (!iso) return null;
  return late ? (
    <span className="late">
      <Trans>{showDay(iso)} · late</Trans>
    </span>
  ) : (
    <span>{showDay(iso)}</span>
  );
}

export function Holds({ of, brief }: { of: string[]; brief?: boolean | 'mark' }) {
  if (!of.length) return null;
  const said = t`On hold: ${of.join(', ')}`;
  if (brief === 'mark') return <PauseCircle size={13} className="late" role="img" aria-label={said} />;
  return (
    <span className="late inline-flex items-center gap-1" title={said}>
      <PauseCircle size={13} aria-hidden /> {of.join(', ')}
      {!brief && ' hold'}
    </span>
  );
}

export function Fault({ children }: { children: ReactNode }) {
  return (
    <span className="late inline-flex items-center gap-1">
      <AlertTriangle size={13} aria-hidden /> {children}
    </span>
  );
}

export function Key({ children }: { children: ReactNode }) {
  return <kbd className="kbd kbd-sm">{children}</kbd>;
}

export function OrderLink({ number }: { number: string }) {
  return (
    <Link to="/orders/$number" params={{ number }} className="ref">
      {number}
    </Link>
  );
}

export function ItemLink({ sku }: { sku: string }) {
  return (
    <Link to="/items/$number" params={{ number: sku }} className="ref">
      {sku}
    </Link>
  );
}

/** A link to a document of whatever kind. */
export function DocumentLink({ kind, number }: { kind: string; number: string }) {
  const params = { number };
  switch (kind) {
    case 'order':
      return <OrderLink number={number} />;
    case 'item':
      return <ItemLink sku={number} />;
    case 'pick list':
      return (
        <Link to="/floor/$number" params={params} className="ref">
          {number}
        </Link>
      );
    case 'print run':
      return (
        <Link to="/papers" search={{ state: 'all' }} className="ref">
          {t`Papers`}
        </Link>
      );
    case 'shipment':
      return (
        <Link to="/shipments/$number" params={params} className="ref">
          {number}
        </Link>
      );
    case 'quote':
      return (
        <Link to="/quotes/$number" params={params} className="ref">
          {number}
        </Link>
      );
    case 'request to buy':
      return (
        <Link to="/buying" search={{ q: number }} className="ref">
          {number}
        </Link>
      );
    case 'customer':
      return (
        <Link to="/customers/$number" params={params} className="ref">
          {number}
        </Link>
      );
    default:
      return (
        <Link to="/inbound" search={{ q: number }} className="ref">
          {number}
        </Link>
      );
  }
}

export function PageHead({ title, sub, children }: { title: ReactNode; sub?: ReactNode; children?: ReactNode }) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    document.title = t`${heading.current?.textContent ?? ''} · Journeyman`;
  });
  return (
    <div className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-2 pb-2">
      <h1 ref={heading} id="page-title" className="text-title">
        {title}
      </h1>
      {sub && <div className="text-mute">{sub}</div>}
      <div className="ml-auto flex flex-wrap items-center gap-2">{children}</div>
    </div>
  );
}

export function Facts({ rows }: { rows: [ReactNode, ReactNode][] }) {
  return (
    <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
      {rows.map(([k, v], i) => (
        <div key={i} className="contents">
          <dt className="text-mute">{k}</dt>
          <dd className="text-right font-semibold">{v}</dd>
        </div>
      ))}
    </dl>
  );
}
