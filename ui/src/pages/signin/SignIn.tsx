import { t } from '@lingui/core/macro';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { ask, client } from '../../api/call';

/** Who are you? In the demo one click; else a login and a password. */
export function SignIn() {
  const queries = useQueryClient();
  const [error, setError] = useState('');
  const [login, setLogin] = useState('');
  const [password, setPassword] = useState('');
  const people = useQuery({ queryKey: ['demo people'], queryFn: () => ask(client.GET('/api/demo/people')), staleTime: Infinity });
  const enter = async (answer: Promise<unknown>) => {
    try {
      setError('');
      queries.setQueryData(['me'], await answer);
    } catch (e) {
      setError((e as Error).message);
    }
  };
  return (
    <main className="mx-auto flex min-h-full max-w-[760px] flex-col justify-center px-6 py-10">
      <h1 className="text-big">{t`Journeyman`}</h1>
      <p className="mt-1 text-lead text-mute">
        {t`Every unit of every order line stands at exactly one station, and only a move takes it to the next.`}
      </p>
      {people.data && people.data.length > 0 && (
        <section className="mt-8">
          <h2 className="text-head">{t`This is the demo: choose who you are`}</h2>
          <p className="mt-1 text-mute">
            {t`Kilnmoor Ceramic Supply and everybody in it are invented. One click signs you in; no password is asked for here.`}
          </p>
          <div className="mt-3 grid grid-cols-2 gap-3">
            {people.data.map((p) => (
              <button
                key={p.login}
                className="cursor-pointer rounded-box border border-line bg-card p-4 text-left hover:border-focus"
                onClick={() => void enter(ask(client.POST('/api/demo/sign-in', { body: { login: p.login } })))}
              >
                <span className="text-lead font-semibold capitalize">{p.role}</span> <span className="text-mute">· {p.name}</span>
                <span className="mt-1 block text-mute">{p.does}</span>
              </button>
            ))}
          </div>
        </section>
      )}
      <form
        className="mt-8 flex items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void enter(ask(client.POST('/api/sign-in', { body: { login, password } })));
        }}
      >
        <label>
          <span className="block text-mute">{t`Login`}</span>
          <input
            className="input input-sm mt-1 w-[200px]"
            autoComplete="username"
            required
            value={login}
            onChange={(e) => setLogin(e.target.value)}
          />
        </label>
        <label>
          <span className="block text-mute">{t`Password`}</span>
          <input
            className="input input-sm mt-1 w-[200px]"
            type="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
        <button className="btn btn-sm" type="submit">
          {t`Sign in`}
        </button>
      </form>
      <p className="late mt-3 min-h-5" role="alert">
        {error}
      </p>
    </main>
  );
}
