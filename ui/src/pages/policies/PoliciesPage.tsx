import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useKey } from '../../base/keys/useKey';
import { useSigned } from '../../base/session';
import { Key, PageHead } from '../../parts/bits';
import { showTime } from '../../base/format';
import { useRows } from '../../parts/rows';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { Compose } from './Compose';
import { say } from '../../base/say';

type Policy = Schemas['PolicyView'];

const fresh: Schemas['PolicyRules'] = {
  keys: ['tier'],
  sharing: 'in-turn',
  goal: 'keys',
  protect: true,
  ship_rules: 'respect',
  elsewhere: false,
  reserves: [],
};

/** By which rules a whole book is served: composed by a manager, one of them the default. */
export function PoliciesPage() {
  const { may } = useSigned();
  const policies = useQuery(questions.policies());
  const rows = policies.data?.policies ?? [];
  const focus = useRows(rows, (p) => String(p.id));
  const [editing, setEditing] = useState<{ id?: number; seen?: number; name: string; rules: Schemas['PolicyRules'] }>();
  const mine = may('set policies');
  const standard = useCommand('/api/default-policy');
  const drop = useCommand('/api/drop-policy');
  const edit = (p: Policy) => setEditing({ id: p.id, seen: p.version, name: p.name, rules: p.rules });
  const row = focus.row;
  useKey('c', t`New policy`, () => setEditing({ name: '', rules: fresh }), { enabled: mine && !editing });
  useKey('enter', t`Change the policy`, () => row && edit(row), { enabled: mine && !editing });
  const note = mine ? undefined : t`A manager composes policies`;
  return (
    <Page
      aside={
        <section>
          <h2 className="mb-1 text-lead">{t`What was done to them`}</h2>
          {policies.data?.trail.length === 0 && (
            <p className="text-mute">{t`Nothing yet: these are those that Journeyman came with.`}</p>
          )}
          {policies.data?.trail.map((note) => (
            <p key={note.at + say(note.text)} className="mb-1">
              {note.who} {say(note.text)} <span className="text-mute">{showTime(note.at)}</span>
            </p>
          ))}
        </section>
      }
    >
      <PageHead title={t`Policies`} sub={t`By which rules a book is served`}>
        <Link to="/allocation" className="btn btn-sm">
          {t`Run one`}
        </Link>
        <button
          className="btn btn-sm btn-primary"
          disabled={!mine}
          title={note}
          onClick={() => setEditing({ name: '', rules: fresh })}
        >
          {t`New policy`} <Key>C</Key>
        </button>
      </PageHead>
      {editing && (
        <Compose
          key={editing.id ?? 0}
          from={editing}
          channels={policies.data?.channels ?? []}
          close={() => setEditing(undefined)}
        />
      )}
      <Load of={policies}>
        {(d) => (
          <table className="grid-table">
            <thead>
              <tr>
                <th>{t`Policy`}</th>
                <th>{t`What it does`}</th>
                <th aria-label={t`What can be done`} />
              </tr>
            </thead>
            <tbody>
              {d.policies.map((p) => (
                <tr key={p.id} data-row data-focus={focus.id === String(p.id)} onClick={() => focus.setFocus(String(p.id))}>
                  <td className="font-semibold">
                    {p.name} {p.default && <span className="font-normal text-mute">{t`· the default`}</span>}
                  </td>
                  <td className="py-1.5 whitespace-normal!">{say(p.words)}</td>
                  <td className="text-right">
                    <span className="inline-flex gap-1.5">
                      <Link to="/allocation" search={{ policy: p.name }} className="btn btn-xs btn-pill">
                        {t`Rehearse`}
                      </Link>
                      <button className="btn btn-xs btn-pill" disabled={!mine} title={note} onClick={() => edit(p)}>
                        {t`Change`}
                      </button>
                      {!p.default && (
                        <>
                          <button
                            className="btn btn-xs btn-pill"
                            disabled={!mine || standard.busy}
                            title={note}
                            onClick={() => standard.run({ ask: { id: p.id, seen: p.version } })}
                          >
                            {t`Set as default`}
                          </button>
                          <button
                            className="btn btn-xs btn-pill"
                            disabled={!mine || drop.busy}
                            title={note}
                            onClick={() => drop.run({ ask: { id: p.id, seen: p.version } })}
                          >
                            {t`Delete`}
                          </button>
                        </>
                      )}
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Load>
    </Page>
  );
}
