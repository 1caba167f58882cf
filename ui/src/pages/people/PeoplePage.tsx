import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { PageHead } from '../../parts/bits';
import { plural, showTime } from '../../base/format';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';

type Person = Schemas['PersonView'];
const roles = ['coordinator', 'sales', 'floor', 'manager'] as const;

/** Who may sign in, as what, and where they are. A manager sees and changes everybody; anybody else, oneself. */
export function PeoplePage() {
  const people = useQuery(questions.people());
  const { may } = useSigned();
  const mine = may('manage people');
  const [chosen, setChosen] = useState<string>();
  return (
    <Page>
      <PageHead
        title={mine ? t`People` : t`Your sign-in`}
        sub={mine ? t`Who may sign in, and where they are signed in` : t`Your password, and where you are signed in`}
      />
      <Load of={people}>
        {(all) => {
          const person = all.find((p) => p.login === chosen) ?? all.find((p) => p.you) ?? all[0];
          return (
            <div className="grid grid-cols-[minmax(0,1fr)_440px] gap-8">
              <div>
                <table className="grid-table">
                  <thead>
                    <tr>
                      <th>{t`Name`}</th>
                      <th>{t`Login`}</th>
                      <th>{t`Role`}</th>
                      <th>{t`Sign-in`}</th>
                      <th>{t`Signed in`}</th>
                    </tr>
                  </thead>
                  <tbody>
                    {all.map((p) => (
                      <tr key={p.login} data-row data-focus={p.login === person?.login} onClick={() => setChosen(p.login)}>
                        <td>
                          <button className="ref" onClick={() => setChosen(p.login)}>
                            {p.name}
                          </button>
                          {p.you && <span className="text-mute"> {t`· you`}</span>}
                        </td>
                        <td>{p.login}</td>
                        <td>{p.role}</td>
                        <td>
                          {p.active ? (
                            p.password ? (
                              t`with a password`
                            ) : (
                              t`without a password`
                            )
                          ) : (
                            <span className="late">{t`deactivated`}</span>
                          )}
                        </td>
                        <td>
                          {p.sessions[0]
                            ? t`in ${plural(p.sessions.length, 'place')}, last seen ${showTime(p.sessions[0].seen)}`
                            : t`nowhere`}
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                {mine && <NewPerson />}
              </div>
              {person && (
                <div className="space-y-6" key={person.login + person.role + person.name + String(person.active)}>
                  {mine && <Who p={person} />}
                  <Password p={person} />
                  <Sessions p={person} />
                </div>
              )}
            </div>
          );
        }}
      </Load>
    </Page>
  );
}

function RoleChoice({ role, set }: { role: Person['role']; set: (r: Person['role']) => void }) {
  return (
    <select
      className="select select-sm"
      aria-label={t`Role`}
      value={role}
      onChange={(e) => set(e.target.value as Person['role'])}
    >
      {roles.map((r) => (
        <option key={r}>{r}</option>
      ))}
    </select>
  );
}

/** A field of a line of text; its name stands in it while it is empty. */
function Text({
  label,
  hint = label,
  width,
  most,
  value,
  set,
  secret,
  required,
}: {
  label: string;
  hint?: string;
  width: number;
  most: number;
  value: string;
  set: (v: string) => void;
  secret?: 'current-password' | 'new-password';
  required?: boolean;
}) {
  return (
    <input
      className="input input-sm"
      style={{ width }}
      type={secret ? 'password' : 'text'}
      autoComplete={secret ?? 'off'}
      aria-label={label}
      placeholder={hint}
      maxLength={most}
      required={required}
      value={value}
      onChange={(e) => set(e.target.value)}
    />
  );
}

function NewPerson() {
  const add = useCommand('/api/add-person');
  const [login, setLogin] = useState('');
  const [name, setName] = useState('');
  const [role, setRole] = useState<Person['role']>('floor');
  const [password, setPassword] = useState('');
  const send = (e: FormEvent) => {
    e.preventDefault();
    add.run({ ask: { login, name, role, password } });
    setPassword('');
  };
  return (
    <form className="mt-5 flex flex-wrap items-center gap-2" onSubmit={send} aria-label={t`New person`}>
      <Text label={t`Name`} width={150} most={100} value={name} set={setName} required />
      <Text label={t`Login`} width={110} most={41} value={login} set={(v) => setLogin(v.toLowerCase())} required />
      <RoleChoice role={role} set={setRole} />
      <Text label={t`Password`} width={190} most={200} value={password} set={setPassword} secret="new-password" required />
      <button className="btn btn-sm" disabled={add.busy}>
        {t`Add person`}
      </button>
    </form>
  );
}

function Who({ p }: { p: Person }) {
  const save = useCommand('/api/set-person');
  const [name, setName] = useState(p.name);
  const [role, setRole] = useState(p.role);
  const changed = name !== p.name || role !== p.role;
  return (
    <section aria-label={p.name}>
      <h2 className="mb-2 text-lead">{p.name}</h2>
      <div className="flex flex-wrap items-center gap-2">
        <Text label={t`Name`} hint="" width={170} most={100} value={name} set={setName} />
        <RoleChoice role={role} set={setRole} />
        <button
          className="btn btn-sm"
          disabled={!changed || !name.trim() || save.busy}
          onClick={() => save.run({ ask: { login: p.login, name, role, active: p.active } })}
        >
          {t`Save`}
        </button>
        <button
          className="btn btn-sm"
          disabled={save.busy}
          onClick={() => save.run({ ask: { login: p.login, name: p.name, role: p.role, active: !p.active } })}
        >
          {p.active ? t`Deactivate` : t`Reactivate`}
        </button>
      </div>
    </section>
  );
}

function Password({ p }: { p: Person }) {
  const set = useCommand('/api/set-password');
  const [old, setOld] = useState('');
  const [next, setNext] = useState('');
  const send = (e: FormEvent) => {
    e.preventDefault();
    set.run({ ask: p.you ? { old, new: next } : { login: p.login, new: next } });
    setOld('');
    setNext('');
  };
  return (
    <form onSubmit={send} aria-label={t`Password`}>
      <h2 className="mb-2 text-lead">{p.you ? t`Your password` : t`New password for ${p.name}`}</h2>
      <div className="flex flex-wrap items-center gap-2">
        {p.you && p.password && (
          <Text
            label={t`Current password`}
            hint={t`As it is`}
            width={150}
            most={200}
            value={old}
            set={setOld}
            secret="current-password"
            required
          />
        )}
        <Text
          label={t`New password`}
          hint={t`New`}
          width={150}
          most={200}
          value={next}
          set={setNext}
          secret="new-password"
          required
        />
        <button className="btn btn-sm" disabled={set.busy || !next}>
          {t`Change password`}
        </button>
      </div>
      <p className="mt-1 text-mute">{t`8 to 128 characters, and none of those that are tried first. All other sessions end.`}</p>
    </form>
  );
}

function Sessions({ p }: { p: Person }) {
  const end = useCommand('/api/end-session');
  return (
    <section aria-label={t`Sessions`}>
      <h2 className="mb-2 text-lead">{t`Signed in`}</h2>
      {p.sessions.length === 0 && <p className="text-mute">{t`Nowhere.`}</p>}
      <ul className="space-y-2">
        {p.sessions.map((s) => (
          <li key={s.id} className="flex items-center gap-3">
            <span className="min-w-0 flex-1">
              <span className="block truncate" title={s.agent}>
                {s.agent || t`Unknown program`}
              </span>
              <span className="text-mute">
                <Trans>
                  {s.address} · since {showTime(s.began)} · last seen {showTime(s.seen)}
                </Trans>
              </span>
            </span>
            {s.this ? (
              <span className="text-mute">{t`this one`}</span>
            ) : (
              <button
                className="btn btn-sm"
                disabled={end.busy}
                onClick={() => end.run({ ask: { login: p.you ? undefined : p.login, session: s.id } })}
              >
                {t`End`}
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
