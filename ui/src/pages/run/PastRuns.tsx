import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import { questions } from '../../base/questions';
import { showTime } from '../../base/format';
import { useCommand } from '../../parts/useCommand';
import { say } from '../../base/say';

/** What was run lately, by whom, and what became of it. */
export function PastRuns() {
  const runs = useQuery(questions.runs());
  const undo = useCommand('/api/undo');
  const list = runs.data?.runs ?? [];
  if (list.length === 0) return null;
  return (
    <section className="mt-6 max-w-[900px]">
      <h2 className="text-lead">{t`Run lately`}</h2>
      <table className="grid-table mt-1">
        <thead>
          <tr>
            <th>{t`When`}</th>
            <th>{t`Who`}</th>
            <th>{t`What`}</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {list.map((r) => (
            <tr key={r.command}>
              <td className="whitespace-nowrap">{showTime(r.at)}</td>
              <td className="whitespace-nowrap">{r.who}</td>
              <td className={`whitespace-normal ${r.back ? 'text-mute' : ''}`}>
                {say(r.said)}
                {r.back && t` It was ${say(r.back)}.`}
              </td>
              <td className="text-right whitespace-nowrap">
                {!r.back && (
                  <button
                    className="btn btn-sm"
                    disabled={!!r.why || undo.busy}
                    title={say(r.why)}
                    onClick={() => undo.run({ ask: { command: r.command } })}
                  >
                    {t`Undo`}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
