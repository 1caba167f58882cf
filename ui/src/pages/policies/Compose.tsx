import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { ArrowDown, ArrowUp, Plus, X } from 'lucide-react';
import { useState } from 'react';
import { type Schemas } from '../../api/call';
import { Key } from '../../parts/bits';
import { useKey } from '../../base/keys/useKey';
import { Whole } from '../../parts/Whole';
import { useCommand } from '../../parts/useCommand';

type Rules = Schemas['PolicyRules'];
type KeyName = Rules['keys'][number];

const keyNames: Record<KeyName, string> = {
  tier: t`Tier, 1 first`,
  urgency: t`Urgency, 1 first`,
  ship_by: t`Ship-by day, earliest first`,
  entered: t`Time of entry, earliest first`,
  value: t`Value, greatest first`,
  order: t`Order number`,
};

/** Composes a policy: keys in order, sharing, goal, window, what is protected and reserved. */
export function Compose({
  from,
  channels,
  close,
}: {
  from: { id?: number; seen?: number; name: string; rules: Rules };
  channels: string[];
  close: () => void;
}) {
  const [name, setName] = useState(from.name);
  const [r, setRules] = useState<Rules>(from.rules);
  const set = (patch: Partial<Rules>) => setRules({ ...r, ...patch });
  const save = useCommand('/api/set-policy', close);
  useKey('esc', t`Leave the policy as it was`, close, { typing: true });
  const unused = (Object.keys(keyNames) as KeyName[]).filter((k) => !r.keys.includes(k));
  const swap = (i: number, j: number) => {
    const keys = [...r.keys];
    [keys[i], keys[j]] = [keys[j]!, keys[i]!];
    set({ keys });
  };
  const reserve = (i: number, patch: Partial<Schemas['Reserve']>) =>
    set({ reserves: r.reserves.map((x, k) => (k === i ? { ...x, ...patch } : x)) });
  return (
    <form
      aria-label={t`Policy`}
      className="mb-4 rounded-box border border-line bg-card p-4"
      onSubmit={(e) => {
        e.preventDefault();
        save.run({ ask: { id: from.id, seen: from.seen, name, rules: r } });
      }}
    >
      <div className="grid grid-cols-3 gap-x-7 gap-y-4">
        <div>
          <label className="block">
            <span className="text-mute">{t`Name`}</span>
            <input
              className="input input-sm mt-1 w-full"
              value={name}
              maxLength={60}
              required
              autoFocus
              onChange={(e) => setName(e.target.value)}
            />
          </label>
          <p className="mt-3 text-mute" id="keys-of">
            {t`Sort by (first key decides)`}
          </p>
          <ol aria-labelledby="keys-of" className="mt-1 space-y-1">
            {r.keys.map((k, i) => (
              <li key={k} className="flex h-7 items-center gap-2 rounded-field border border-line px-2">
                <b>{i + 1}</b> <span className="flex-1">{keyNames[k]}</span>
                <button
                  type="button"
                  aria-label={t`${keyNames[k]} earlier`}
                  disabled={i === 0}
                  className="cursor-pointer disabled:opacity-30"
                  onClick={() => swap(i, i - 1)}
                >
                  <ArrowUp size={14} aria-hidden />
                </button>
                <button
                  type="button"
                  aria-label={t`${keyNames[k]} later`}
                  disabled={i === r.keys.length - 1}
                  className="cursor-pointer disabled:opacity-30"
                  onClick={() => swap(i, i + 1)}
                >
                  <ArrowDown size={14} aria-hidden />
                </button>
                <button
                  type="button"
                  aria-label={t`Without ${keyNames[k]}`}
                  disabled={r.keys.length === 1}
                  className="cursor-pointer disabled:opacity-30"
                  onClick={() => set({ keys: r.keys.filter((x) => x !== k) })}
                >
                  <X size={14} aria-hidden />
                </button>
              </li>
            ))}
          </ol>
          {unused.length > 0 && (
            <select
              className="select select-sm mt-1 w-full"
              aria-label={t`Add a key`}
              value=""
              onChange={(e) => set({ keys: [...r.keys, e.target.value as KeyName] })}
            >
              <option value="">{t`Then by…`}</option>
              {unused.map((k) => (
                <option key={k} value={k}>
                  {keyNames[k]}
                </option>
              ))}
            </select>
          )}
        </div>
        <div className="space-y-3">
          <Pick
            label={t`Lines that are equal in all of them`}
            value={r.sharing}
            set={(v) => set({ sharing: v as Rules['sharing'] })}
            options={[
              ['in-turn', t`are served one after another`],
              ['fair', t`share by part of what they want`],
              ['equal', t`share by number of units`],
            ]}
          />
          <Pick
            label={t`Before that, tier by tier`}
            value={r.goal}
            set={(v) => set({ goal: v as Rules['goal'] })}
            options={[
              ['keys', t`nothing, all in turn`],
              ['orders', t`most orders complete`],
              ['value', t`most value that can go`],
            ]}
          />
          <Pick
            label={t`Ship rules of orders`}
            value={r.ship_rules}
            set={(v) => set({ ship_rules: v as Rules['ship_rules'] })}
            options={[
              ['respect', t`are respected`],
              ['ignore', t`are taken no notice of`],
            ]}
          />
          <label className="block">
            <span className="text-mute">{t`Ships within so many days (empty: all)`}</span>
            <Whole
              className="input input-sm mt-1 block w-24"
              label={t`Days`}
              most={3650}
              value={r.window ?? undefined}
              set={(n, why) => why === undefined && set({ window: n })}
            />
          </label>
        </div>
        <div>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={r.protect}
              onChange={(e) => set({ protect: e.target.checked })}
            />
            {t`What is promised to others is not taken`}
          </label>
          <label className="mt-2 flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={r.elsewhere}
              onChange={(e) => set({ elsewhere: e.target.checked })}
            />
            {t`Lines may draw on other warehouses`}
          </label>
          <p className="mt-4 text-mute">{t`Reserved stock`}</p>
          {r.reserves.map((x, i) => (
            <div key={i} className="mt-1 flex flex-wrap items-center gap-1.5">
              <Whole
                className="input input-sm w-12 text-right"
                label={t`Percent`}
                most={100}
                value={x.percent}
                set={(n) => reserve(i, { percent: n ?? 0 })}
              />
              {t`% of`}
              <input
                className="input input-sm min-w-0 flex-1"
                aria-label={t`Of which item`}
                placeholder={t`all items`}
                value={x.sku ?? ''}
                onChange={(e) => reserve(i, { sku: e.target.value.trim().toUpperCase() || undefined })}
              />
              <Trans>
                <span className="basis-full" />
                for
              </Trans>
              <select
                className="select select-sm min-w-[110px] flex-1"
                aria-label={t`For whom`}
                value={x.tier ? `tier ${x.tier}` : (x.channel ?? '')}
                onChange={(e) => {
                  const v = e.target.value;
                  reserve(
                    i,
                    v.startsWith('tier ') ? { tier: Number(v.slice(5)), channel: undefined } : { tier: undefined, channel: v },
                  );
                }}
              >
                {[1, 2, 3, 4].map((tier) => (
                  <option key={tier} value={`tier ${tier}`}>
                    {tier === 1 ? t`tier 1` : t`tiers 1 to ${tier}`}
                  </option>
                ))}
                {channels.map((c) => (
                  <option key={c} value={c}>
                    {t`channel ${c}`}
                  </option>
                ))}
              </select>
              <button
                type="button"
                aria-label={t`Keep this part no longer`}
                className="cursor-pointer"
                onClick={() => set({ reserves: r.reserves.filter((_, k) => k !== i) })}
              >
                <X size={14} aria-hidden />
              </button>
            </div>
          ))}
          <button
            type="button"
            className="btn btn-xs btn-pill mt-2"
            onClick={() => set({ reserves: [...r.reserves, { percent: 20, tier: 1 }] })}
          >
            <Plus size={13} aria-hidden /> {t`Reserve stock`}
          </button>
        </div>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn btn-sm" onClick={close}>
          {t`Cancel`} <Key>{t`Esc`}</Key>
        </button>
        <button className="btn btn-sm btn-primary" disabled={save.busy}>
          {from.id ? t`Save changes` : t`Save`}
        </button>
      </div>
    </form>
  );
}

function Pick({
  label,
  value,
  set,
  options,
}: {
  label: string;
  value: string;
  set: (v: string) => void;
  options: [string, string][];
}) {
  return (
    <label className="block">
      <span className="text-mute">{label}</span>
      <select className="select select-sm mt-1 w-full" value={value} onChange={(e) => set(e.target.value)}>
        {options.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}
