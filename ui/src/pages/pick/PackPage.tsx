import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { ask, client } from '../../api/call';
import { plural, showDay, showKg, showNum } from '../../base/format';
import type { Job } from '../../parts/boxes';
import { Load } from '../../parts/states';
import { FloorFrame, Heard, ScanField, Unsent } from './parts';
import { useJobScan } from './useJobScan';

/** Chooses what is packed by touch, or by scanning a sheet, or an order. */
export function PackPage() {
  const { take, open, heard, only } = useJobScan();
  const jobs = useQuery({
    queryKey: ['packing', 'by scanning'],
    queryFn: ({ signal }) => ask(client.GET('/api/packing', { params: { query: {} }, signal })),
  });
  const shown = (all: Job[]) => (only ? all.filter((j) => only.includes(j.order)) : all);
  return (
    <FloorFrame
      title={t`Pack`}
      sub={jobs.data && plural(jobs.data.jobs.length, 'order')}
      foot={
        <>
          <Link to="/pick" className="btn btn-quiet">
            {t`Pick`}
          </Link>
          <Link to="/packing" className="btn btn-quiet ml-auto">
            {t`Leave`}
          </Link>
        </>
      }
    >
      <Unsent />
      <ScanField label={t`Scan a sheet or an order, or choose one…`} take={take} />
      <Heard of={heard} />
      <Load of={jobs}>
        {({ jobs: all, next }) =>
          shown(all).length === 0 ? (
            <p className="pt-6 text-center text-head text-mute">{t`Nothing waits to be packed.`}</p>
          ) : (
            <section aria-label={t`To be packed`} className="pt-4">
              {shown(all).map((j) => (
                <button
                  key={`${j.order} ${j.warehouse}`}
                  className="floor-box floor-choice mb-2"
                  onClick={() => open(j.order, j.warehouse)}
                >
                  <span className="flex items-baseline gap-3">
                    <b className="text-large">{j.order}</b>
                    <span className="truncate">{j.customer}</span>
                    <span className={`ml-auto whitespace-nowrap ${j.late ? 'late' : ''}`}>{showDay(j.ship_by)}</span>
                  </span>
                  <span className="block text-mute">
                    <Trans>
                      {plural(j.units, 'unit')} in {plural(j.lines.length, 'line')}
                    </Trans>
                    {` · ${showKg(j.weight_g)} · ${j.service} · ${j.warehouse}`}
                    {j.still_coming > 0 && ' · ' + t`${showNum(j.still_coming)} still being picked`}
                    {j.holds.length > 0 && <b className="late"> · {t`on hold`}</b>}
                  </span>
                </button>
              ))}
              {next && !only && <p className="text-head text-mute">{t`More wait: scan or type an order to find it.`}</p>}
            </section>
          )
        }
      </Load>
    </FloorFrame>
  );
}
