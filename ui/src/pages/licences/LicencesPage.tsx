import { t } from '@lingui/core/macro';
import { useQuery } from '@tanstack/react-query';
import { Page } from '../../parts/Page';
import { PageHead } from '../../parts/bits';
import { plural } from '../../base/format';
import { Find, useList } from '../../parts/list';
import { useRows } from '../../parts/rows';
import { Empty, Load } from '../../parts/states';

interface Notice {
  name: string;
  version: string;
  licence: string;
  text: string;
}

async function notices(): Promise<Notice[]> {
  const answer = await fetch('/notices.json');
  if (!answer.ok) throw new Error('The licences could not be read. Load the page again.');
  return (await answer.json()) as Notice[];
}

/** What ships with Journeyman, and under which licence. */
export function LicencesPage() {
  const [s] = useList();
  const all = useQuery({ queryKey: ['notices'], queryFn: notices, staleTime: Infinity });
  const words = (s.q ?? '').toLowerCase();
  const rows = (all.data ?? []).filter((n) => `${n.name} ${n.licence}`.toLowerCase().includes(words));
  const focus = useRows(rows, (n) => n.name);
  return (
    <Page aside={focus.row ? <Text of={focus.row} /> : <p className="text-mute">{t`Select a row.`}</p>}>
      <PageHead title={t`Licences`} sub={all.data && t`Journeyman ships with ${plural(all.data.length, 'open-source package')}`}>
        <Find label={t`Name or licence`} />
      </PageHead>
      <Load of={all}>
        {() =>
          rows.length === 0 ? (
            <Empty title={t`No package fits this.`} />
          ) : (
            <table className="grid-table">
              <thead>
                <tr>
                  <th>{t`Package`}</th>
                  <th>{t`Version`}</th>
                  <th>{t`Licence`}</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((n) => (
                  <tr key={n.name} data-row data-focus={focus.id === n.name} onClick={() => focus.setFocus(n.name)}>
                    <td>{n.name}</td>
                    <td>{n.version}</td>
                    <td>{n.licence}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )
        }
      </Load>
    </Page>
  );
}

/** The text with the line breaks within its paragraphs taken out: it stands in a column narrower than it was written for. */
const flowing = (text: string) => text.replace(/(\S)\n(?=[^\n\s\d(*-])/g, '$1 ');

function Text({ of }: { of: Notice }) {
  return (
    // It can be longer than the screen is high: it takes the focus, so that the keyboard scrolls it.
    <section tabIndex={0} aria-label={t`Licence of ${of.name}`}>
      <h2 className="mb-2 text-lead break-words">{of.name}</h2>
      <p className="mb-3 text-mute">{[of.version, of.licence].filter(Boolean).join(' · ')}</p>
      <p className="text-small break-words whitespace-pre-line">{flowing(of.text)}</p>
    </section>
  );
}
