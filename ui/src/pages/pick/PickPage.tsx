import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client, type Schemas } from '../../api/call';
import { plural, showNum, showSpan, showTime } from '../../base/format';
import { questions } from '../../base/questions';
import { useSigned } from '../../base/session';
import { voidText } from '../../parts/paper';
import { useCommand } from '../../parts/useCommand';
import { Load } from '../../parts/states';
import { CutOffIn } from '../../parts/CutOffIn';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { sound } from '../../base/sound';

type List = Schemas['ListView'];

/** Chooses a pick list by touch, or by scanning the sheet on which it stands. */
export function PickPage() {
  const { me, may } = useSigned();
  const pause = useCommand('/api/break');
  const away = useQuery(questions.pickers()).data?.find((p) => p.name === me.name)?.break;
  const go = useNavigate();
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const lists = useQuery({
    queryKey: ['pick-lists', 'to pick'],
    queryFn: async ({ signal }) =>
      (await ask(client.GET('/api/pick-lists', { params: { query: { sort: 'tier' } }, signal }))).lists,
  });
  const back = useQuery(questions.putBacks()).data?.length ?? 0;
  const open = (number: string, sheet?: string) => void go({ to: '/pick/$number', params: { number }, search: { sheet } });
  const wrong = (text: string) => {
    setHeard({ kind: 'wrong', text });
    sound(false);
  };
  /** A sheet is looked up by its code, a list by its number. */
  const take = async (text: string) => {
    const code = text.trim();
    if (code === '') return;
    setHeard(undefined);
    try {
      const found = lists.data?.find((l) => l.number.toLowerCase() === code.toLowerCase());
      if (found) return open(found.number);
      const paper = await ask(client.GET('/api/papers/{number}', { params: { path: { number: code } } }));
      if (paper.void_why) {
        return wrong(
          t`${paper.code} is void: ${voidText(paper)}. ${paper.standing ? t`Take ${paper.standing}.` : t`Do not pick by it.`}`,
        );
      }
      if (!paper.list) return wrong(t`${paper.code} is a packing list. Scan a pick list.`);
      sound(true);
      open(paper.list, paper.code);
    } catch (e) {
      wrong(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <FloorFrame
      title={t`Pick`}
      sub={lists.data && plural(lists.data.length, 'list')}
      foot={
        <>
          <Link to="/pack" className="btn btn-quiet">
            {t`Pack`}
          </Link>
          <Link to="/receive" className="btn btn-quiet max-[500px]:hidden">
            {t`Receive`}
          </Link>
          <Link to="/counts" className="btn btn-quiet">
            {t`Counts`}
          </Link>
          <Link to="/put-back" className="btn btn-quiet">
            {t`Put back`}
            {back > 0 && <b> · {showNum(back)}</b>}
          </Link>
          {!away && may('pick') && (
            <button className="btn btn-quiet ml-auto" disabled={pause.busy} onClick={() => pause.run({ ask: {} })}>
              {t`Take a break`}
            </button>
          )}
          <Link to="/" className={`btn btn-quiet ${away ? 'ml-auto' : ''}`}>
            {t`Leave`}
          </Link>
        </>
      }
    >
      <Unsent />
      {away && (
        <p role="status" className="floor-box mb-2 flex flex-wrap items-center gap-3 text-head">
          <Trans>You are on a break since {showTime(away)}. Your lists stay yours until somebody takes them over.</Trans>
          <button className="btn ml-auto" disabled={pause.busy} onClick={() => pause.run({ ask: { back: true } })}>
            {t`I am back`}
          </button>
        </p>
      )}
      <ScanField label={t`Scan a pick list, or choose one…`} take={(text) => void take(text)} />
      <Heard of={heard} />
      <Load of={lists}>
        {(all) => {
          const groups: [string, List[]][] = [
            [t`Yours`, all.filter((l) => l.picker === me.name)],
            [t`Nobody picks them yet`, all.filter((l) => !l.picker)],
            [t`Others pick them`, all.filter((l) => l.picker && l.picker !== me.name)],
          ];
          return all.length === 0 ? (
            <p className="pt-6 text-center text-head text-mute">{t`Nothing is left to pick.`}</p>
          ) : (
            groups.map(
              ([title, rows]) =>
                rows.length > 0 && (
                  <section key={title} aria-label={title} className="pt-4">
                    <h2 className="pb-1 text-head text-mute">{title}</h2>
                    {rows.map((l) => (
                      <button key={l.number} className="floor-box floor-choice mb-2" onClick={() => open(l.number)}>
                        <span className="flex items-baseline gap-3">
                          <b className="text-large">{l.number}</b>
                          <span>{l.zone ? t`${l.warehouse}, zone ${l.zone}` : l.warehouse}</span>
                          <span className="ml-auto">
                            <CutOffIn of={l} />
                          </span>
                        </span>
                        <span className="block text-mute">
                          <Trans>
                            {showNum(l.due)} units in {plural(l.rows_due, 'row')}, {plural(l.orders, 'order')}
                          </Trans>
                          {l.seconds > 0 && ` · ${showSpan(l.seconds)}`}
                          {l.picker && l.picker !== me.name && ` · ${l.picker}`}
                        </span>
                      </button>
                    ))}
                  </section>
                ),
            )
          );
        }}
      </Load>
    </FloorFrame>
  );
}
