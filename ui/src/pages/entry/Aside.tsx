import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useKey } from '../../base/keys/useKey';
import { ItemLink, Key } from '../../parts/bits';
import { showDay, showMoney, showNum, showShare } from '../../base/format';
import { JourneyBar, tellCounts } from '../../parts/JourneyBar';
import type { Line, LineView } from './draft';
import { say } from '../../base/say';

const hows = [
  ['split', t`As it comes: what there is in time, the rest as soon as it can be`],
  ['whole', t`In one piece`],
  ['none', t`Promise nothing yet`],
] as const;

/** What the line in focus can be promised, how else, and what else. */
export function LineAside({
  line,
  view: v,
  whole,
  currency,
  patch,
}: {
  line?: Line;
  view?: LineView;
  whole: boolean;
  currency: string;
  patch: (p: Partial<Line>) => void;
}) {
  if (!line || !v) {
    return (
      <div className="space-y-2 text-mute">
        <p>{t`Type part of an item’s number or name, Enter, the quantity, Enter; and so on.`}</p>
        <p>{t`Rows copied from a spreadsheet or a message can be pasted into the item field.`}</p>
        <p>
          <Key>{t`Ctrl Del`}</Key>{' '}
          <Trans>
            takes a line away, <Key>↑</Key> <Key>↓</Key> go from line to line.
          </Trans>
        </p>
      </div>
    );
  }
  if (!v.item) {
    return (
      <p>
        <Trans>
          There is no item <b>{v.sku}</b>. Type part of its number or name.
        </Trans>
      </p>
    );
  }
  return (
    <>
      <section className="pb-3">
        <h2 className="text-lead">
          <ItemLink sku={v.sku} /> {v.item}
        </h2>
        {v.at && (
          <p className="mt-1 flex items-center gap-2" title={tellCounts(v.at)}>
            <JourneyBar at={v.at} width={150} of={v.sku} />
            {v.least > 0 && (
              <span className="text-mute">
                <Trans>at least {showNum(v.least)}</Trans>
              </span>
            )}
          </p>
        )}
        {v.hint && (
          <p className="mt-1 text-mute">
            <Trans>It {say(v.hint)}.</Trans>
          </p>
        )}
        <table className="grid-table mt-2" aria-label={t`Stock`}>
          <tbody>
            <tr>
              <td>
                <Trans>On hand at {v.warehouse}</Trans>
              </td>
              <td className="num">{showNum(v.on_hand)}</td>
            </tr>
            <tr>
              <td>{t`Free`}</td>
              <td className="num">{showNum(v.free)}</td>
            </tr>
            {v.spoken > 0 && (
              <tr>
                <td>{t`of it promised to others`}</td>
                <td className="num">{showNum(v.spoken)}</td>
              </tr>
            )}
            <tr>
              <td>{t`Free elsewhere`}</td>
              <td className="num">{showNum(v.elsewhere)}</td>
            </tr>
            {v.next && (
              <tr>
                <td>
                  {v.next.ref},{' '}
                  {v.next.overdue ? (
                    <span className="late">
                      <Trans>overdue {showDay(v.next.due)}</Trans>
                    </span>
                  ) : (
                    showDay(v.next.due)
                  )}
                </td>
                <td className="num">+{showNum(v.next.qty)}</td>
              </tr>
            )}
          </tbody>
        </table>
      </section>
      {v.qty > 0 && (
        <section className="border-t border-line py-3">
          <h2 className="mb-1 text-lead">{v.parts.length > 0 ? t`Will be promised` : t`Nothing will be promised`}</h2>
          {v.parts.map((p, i) => (
            <p key={p.day + p.warehouse}>
              <Trans>
                <b>{showNum(p.qty)}</b> leaves {p.warehouse} {showDay(p.day)}, there {showDay(v.arrives[i] ?? '')}
              </Trans>
            </p>
          ))}
          {v.short > 0 && (
            <p className="late">
              <Trans>For {showNum(v.short)} there is no supply due.</Trans>
            </p>
          )}
          {v.late && v.earliest && (
            <p className="text-mute">
              <Trans>All of it can be there {showDay(v.earliest)}.</Trans>{' '}
              {v.parts.length > 0 && t`Taken so, the late day is on record.`}
            </p>
          )}
          {v.told && (
            <p className="text-mute">
              <Trans>The quote said {showDay(v.told)}.</Trans>
            </p>
          )}
          {!whole && (
            <div className="mt-2 space-y-1" role="group" aria-label={t`How it is promised`}>
              {hows.map(([how, words], i) => (
                <How key={how} k={`alt+${i + 1}`} words={words} on={v.how === how} choose={() => patch({ how })} />
              ))}
            </div>
          )}
        </section>
      )}
      {v.better && (
        <section className="border-t border-line py-3">
          <h2 className="mb-1 text-lead">{t`Sooner from elsewhere`}</h2>
          <Take
            k="alt+h"
            does={t`Send it from ${v.better.warehouse}`}
            text={t`${v.better.warehouse}: all of it there ${showDay(v.better.arrives)}`}
            go={() => patch({ warehouse: v.better?.warehouse })}
          />
        </section>
      )}
      {v.instead.length > 0 && line.line === undefined && line.quote_line === undefined && (
        <section className="border-t border-line py-3">
          <h2 className="mb-1 text-lead">{t`Substitute available`}</h2>
          {v.instead.map((x, i) => (
            <Take
              key={x.sku}
              k={i === 0 ? 'alt+s' : undefined}
              does={t`Take ${x.sku} in its place`}
              text={`${x.sku} ${x.name}`}
              more={t`${showNum(x.free)} at ${x.warehouse}`}
              go={() =>
                patch({ sku: x.sku, warehouse: x.warehouse === v.warehouse ? undefined : x.warehouse, list_minor: undefined })
              }
            />
          ))}
        </section>
      )}
      <section className="border-t border-line py-3 text-mute">
        {showMoney(v.price_minor, currency)} a {v.unit}
        {v.discount_bp > 0 && t` (${showMoney(v.list_minor, currency)} less ${v.discount_bp / 100} %)`}
        {v.margin_bp !== undefined && !v.data_fault && t`, margin ${showShare(v.margin_bp)}`}
        {v.data_fault && (
          <span className="late">
            {' '}
            <Trans>{v.data_fault}: the margin is not to be trusted</Trans>
          </span>
        )}
      </section>
    </>
  );
}

function How({ k, words, on, choose }: { k: string; words: string; on: boolean; choose: () => void }) {
  useKey(k, words, choose, { typing: true });
  return (
    <label className="flex cursor-pointer items-start gap-2">
      <input type="radio" className="radio radio-xs mt-0.5" name="how" checked={on} onChange={choose} />
      <span className="flex-1">{words}</span>
      <Key>{k.replace('alt+', 'Alt ')}</Key>
    </label>
  );
}

function Take({ k, does, text, more, go }: { k?: string; does: string; text: string; more?: string; go: () => void }) {
  useKey(k ?? 'alt+s', does, go, { typing: true, enabled: k !== undefined });
  return (
    <button className="flex w-full cursor-pointer items-center gap-2 py-1 text-left hover:underline" onClick={go} title={does}>
      <span className="min-w-0 flex-1 truncate">{text}</span>
      {more && <b className="shrink-0">{more}</b>}
      {k && <Key>{k.replace('alt+', 'Alt ').toUpperCase()}</Key>}
    </button>
  );
}
