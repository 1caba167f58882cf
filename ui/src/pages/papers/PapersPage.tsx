import { t } from '@lingui/core/macro';
import { ask, client, type Schemas } from '../../api/call';
import { showNum, showTime } from '../../base/format';
import { DocumentLink, PageHead } from '../../parts/bits';
import type { GridColumn } from '../../parts/grid/column';
import { DataGrid } from '../../parts/grid/DataGrid';
import { Chips, Found, GroupBy, More } from '../../parts/grid/GridTools';
import { useGrid } from '../../parts/grid/useGrid';
import { Choice, Find, useList } from '../../parts/list';
import { Page } from '../../parts/Page';
import { paperState, pdfOf, voidText } from '../../parts/paper';
import { Empty } from '../../parts/states';

type Paper = Schemas['PaperView'];

const sheets: Record<string, string> = { 'pick list': t`Pick list`, 'packing list': t`Packing list`, label: t`Label` };
const reasons: Record<string, string> = { 'printed again': t`printed again`, recalled: t`recalled` };

const columns: GridColumn<Paper>[] = [
  {
    name: 'code',
    title: t`Code`,
    kind: 'text',
    beside: 8,
    text: (p) => p.code,
    cell: (p) => (
      <a href={pdfOf(p)} target="_blank" rel="noreferrer" className={`ref ${p.void_why ? 'line-through' : ''}`}>
        {p.code}
      </a>
    ),
  },
  { name: 'kind', title: t`Sheet`, kind: 'text', group: true, named: (v) => sheets[v], text: (p) => sheets[p.kind] ?? p.kind },
  {
    name: 'of',
    title: t`Of`,
    kind: 'text',
    beside: 8,
    text: (p) => p.list || p.package || p.order || '',
    cell: (p) =>
      p.package ? (
        <>
          {p.package} <DocumentLink kind="shipment" number={p.shipment ?? ''} />
        </>
      ) : (
        <DocumentLink kind={p.list ? 'pick list' : 'order'} number={p.list || p.order || ''} />
      ),
  },
  { name: 'warehouse', title: t`Warehouse`, kind: 'text', group: true, text: (p) => p.warehouse },
  { name: 'at', title: t`Printed`, kind: 'moment', text: (p) => showTime(p.at) },
  { name: 'who', title: t`Printed by`, kind: 'text', group: true, cut: true, text: (p) => p.who },
  { name: 'pages', title: t`Document`, text: (p) => paperState(p), cut: true, file: ['trouble'] },
  {
    name: 'void',
    title: t`Void`,
    kind: 'text',
    group: true,
    cut: true,
    named: (v) => reasons[v],
    text: voidText,
    cell: (p) => p.void_why && <span className="late">{voidText(p)}</span>,
    file: ['void', 'void_by'],
  },
  { name: 'revision', title: t`Revision`, kind: 'number', num: true, aside: true, text: (p) => showNum(p.revision) },
];

const idOf = (p: Paper) => p.code;

/** What was printed, the latest first: each sheet with its code, and whether it still stands. */
export function PapersPage() {
  const { state } = useList()[0];
  const grid = useGrid<Paper>({
    list: 'papers',
    one: 'sheet',
    fetch: async (q, signal) => {
      const d = await ask(client.GET('/api/papers', { params: { query: q }, signal }));
      return { rows: d.papers, next: d.next };
    },
    columns,
    idOf,
    scope: { state },
  });
  return (
    <Page fill>
      <PageHead title={t`Papers`} sub={<Found grid={grid} />}>
        <Choice
          name="state"
          options={[
            ['', t`Valid`],
            ['void', t`Void`],
            ['all', t`All`],
          ]}
        />
        <GroupBy grid={grid} />
        <Find label={t`Code, order, customer…`} />
        <More grid={grid} />
      </PageHead>
      <Chips grid={grid} />
      <DataGrid
        grid={grid}
        label={t`Papers`}
        open={(p) => void window.open(pdfOf(p), '_blank', 'noreferrer')}
        opens={t`Open the document`}
        empty={
          grid.search.q || grid.search.only ? (
            <Empty
              title={t`No sheet fits this.`}
            >{t`Take a filter away, or look for part of a code, an order or a customer.`}</Empty>
          ) : (
            <Empty title={state === 'void' ? t`No sheet is void.` : t`Nothing was printed yet.`}>
              {t`Pick lists are printed when lines are released, or on the page of a pick list.`}
            </Empty>
          )
        }
      />
    </Page>
  );
}
