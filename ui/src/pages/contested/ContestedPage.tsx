import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { Key } from '../../parts/bits';
import { plural, showDay, showMoney, showNum } from '../../base/format';
import { Find, useList } from '../../parts/list';
import { Empty, Load } from '../../parts/states';
import { Contest } from './Contest';

type Row = Schemas['ContestRow'];

const keyOf = (r: { sku?: string; warehouse?: string }) => `${r.sku ?? ''} ${r.warehouse ?? ''}`;

/** Items of which more is wanted than is free, the greatest trouble first, and one of them with all who want it. */
export function ContestedPage() {
  const [s, set] = useList();
  const list = useQuery({
    ...questions.shortages(s.q),
    placeholderData: (before) => before,
  });
  const rows = list.data?.items ?? [];
  // The item in the address stays on the page though it may not be contested any more.
  const asked = s.sku && s.warehouse ? { sku: s.sku, warehouse: s.warehouse } : undefined;
  const shown = asked ?? rows[0];
  const at = rows.findIndex((r) => shown && keyOf(r) === keyOf(shown));
  const open = (r: Row | undefined) => r && set({ sku: r.sku, warehouse: r.warehouse });
  const next = () => open(rows[Math.min(rows.length - 1, at + 1)]);
  useKey(']', t`Next item`, next, { enabled: at < rows.length - 1, repeat: true });
  useKey('[', t`Previous item`, () => open(rows[Math.max(0, at - 1)]), { enabled: at > 0, repeat: true });
  useEffect(() => {
    document.querySelector('[data-contested][aria-current="true"]')?.scrollIntoView({ block: 'nearest' });
  }, [at]);
  return (
    <div className="grid h-full grid-cols-[226px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)]">
      <nav aria-label={t`Shortages`} className="flex min-h-0 flex-col border-r border-line">
        <div className="px-4 pt-3 pb-2">
          <h1 className="text-title">{t`Shortages`}</h1>
          {list.data && (
            <p className="mb-2 text-mute">
              <Trans>
                {plural(list.data.total, 'item')} · {showMoney(list.data.value_minor, list.data.currency)} short
              </Trans>
            </p>
          )}
          <Find label={t`Item, warehouse…`} />
        </div>
        <div className="min-h-0 flex-1 overflow-y-auto">
          <Load of={list}>{() => rows.map((r) => <Item key={keyOf(r)} r={r} on={rows[at] === r} open={() => open(r)} />)}</Load>
          {list.data && list.data.total > rows.length && (
            <p className="px-4 py-2 text-mute">
              <Trans>
                The {showNum(rows.length)} greatest are listed. {plural(list.data.total - rows.length, 'item')} more: look for
                them by item or warehouse.
              </Trans>
            </p>
          )}
        </div>
        <p className="border-t border-line px-4 py-2 text-mute">
          <Key>]</Key>{' '}
          <Trans>
            next <Key>[</Key> before
          </Trans>
        </p>
      </nav>
      {shown ? (
        <Contest key={keyOf(shown)} sku={shown.sku} warehouse={shown.warehouse} next={next} last={at === rows.length - 1} />
      ) : (
        <Page>
          {list.data && (
            <Empty
              title={
                s.q
                  ? t`Nothing contested has “${s.q}”.`
                  : t`Nothing is short: of every item there is as much free as is wanted now.`
              }
            >
              {s.q
                ? t`Take the filter away to see all items.`
                : t`When orders want more than there is, the item appears here, the greatest trouble first.`}
            </Empty>
          )}
        </Page>
      )}
    </div>
  );
}

function Item({ r, on, open }: { r: Row; on: boolean; open: () => void }) {
  return (
    <button
      data-contested
      aria-current={on}
      onClick={open}
      className={
        'block w-full cursor-pointer border-b border-line px-4 py-2 text-left hover:bg-focus-ground/50' +
        (on ? ' bg-focus-ground shadow-[inset_3px_0_0_var(--color-focus)]' : '')
      }
    >
      <span className="flex justify-between font-semibold">
        <span>
          {r.sku} <span className="font-normal text-mute">{r.warehouse}</span>
        </span>
        <span>{showMoney(r.value_minor, r.currency)}</span>
      </span>
      <span className="block truncate text-mute">{r.item}</span>
      <span className="flex justify-between">
        <span>
          <Trans>{showNum(r.missing)} short</Trans>
        </span>
        {r.relief ? (
          <span className={r.enough ? 'text-mute' : ''} title={t`${r.relief.ref} brings ${showNum(r.relief.qty)}`}>
            {r.enough ? t`until` : t`some on`} {showDay(r.relief.due)}
          </span>
        ) : (
          <span className="late">{r.overdue ? t`arrival overdue` : t`nothing coming`}</span>
        )}
      </span>
    </button>
  );
}
