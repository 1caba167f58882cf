import { t } from '@lingui/core/macro';
import type { ListSearch } from '../../base/search';
import { showDay } from '../../base/format';
import type { ListQuery } from '../../parts/grid/pages';
import { Choice, useList } from '../../parts/list';

/** Which orders, by how far they are. */
export const States = () => (
  <Choice
    name="state"
    options={[
      ['', t`Unfinished`],
      ['late', t`Late`],
      ['held', t`On hold`],
      ['done', t`Finished`],
      ['all', t`All`],
    ]}
  />
);

export const scopeOf = (s: ListSearch) => ({
  state: s.state === 'all' ? undefined : (s.state ?? 'open'),
  station: s.station as ListQuery['station'],
});

/** Filters that came with a link from another page. */
export const narrowOf = (s: ListSearch): string[] =>
  (['customer', 'channel', 'tier', 'wanted'] as const).flatMap((name) => (s[name] ? [`${name}=${s[name]}`] : []));

/** Filters that came with a link are shown, so that they can be taken away. */
export function narrowed(s: ListSearch, set: ReturnType<typeof useList>[1]) {
  const by = [
    ['station', s.station && t`with units ${s.station}`],
    ['customer', s.customer && t`customer ${s.customer}`],
    ['channel', s.channel && t`channel ${s.channel}`],
    ['tier', s.tier && t`tier ${s.tier}`],
    ['wanted', s.wanted && t`requested ${showDay(s.wanted)}`],
  ] as const;
  if (by.every(([, text]) => !text)) return null;
  return by.map(
    ([name, text]) =>
      text && (
        <button key={name} className="btn btn-xs btn-pill" aria-pressed onClick={() => set({ [name]: undefined })}>
          {text} ×
        </button>
      ),
  );
}
