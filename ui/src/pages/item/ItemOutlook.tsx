import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { showDay, showNum } from '../../base/format';
import { OutlookChart, OutlookChoice, OutlookTable } from '../../parts/OutlookChart';

/** What can be promised of the item from each warehouse, day by day, and what a day rests on. */
export function ItemOutlook({ sku }: { sku: string }) {
  const [house, setHouse] = useState('');
  const [day, setDay] = useState('');
  const [table, setTable] = useState(false);
  const outlook = useQuery({
    ...questions.canPromise({ sku }),
    retry: false,
  });
  const shown = outlook.data?.houses.find((h) => h.warehouse === house) ?? outlook.data?.houses[0];
  const focus = shown?.days.find((d) => d.day === day);
  return (
    <section aria-label="Outlook" className="mt-4">
      <div className="flex items-center gap-3">
        <h2 className="shrink-0 text-[14px]">Outlook{shown && ` at ${shown.name || shown.warehouse}`}</h2>
        {shown?.over ? (
          <span className="late">too much is promised from {showDay(shown.over)}</span>
        ) : (
          <Link to="/promise" search={{ sku }} className="ref text-mute">
            How many, by when?
          </Link>
        )}
        {outlook.data && (
          <OutlookChoice
            houses={outlook.data.houses}
            shown={shown}
            choose={setHouse}
            table={table}
            flip={() => setTable(!table)}
          />
        )}
      </div>
      {outlook.error && <p className="text-mute">{outlook.error.message}</p>}
      {shown &&
        (table ? <OutlookTable house={shown} /> : <OutlookChart house={shown} qty={0} shipBy="" focus={day} setFocus={setDay} />)}
      {focus && (
        <p>
          <b>{showDay(focus.day)}</b>: {showNum(focus.left)} projected
          {focus.receipts.map((r) => (
            <span key={r.ref}>
              , {r.ref} brings {showNum(r.qty)}
            </span>
          ))}
          {focus.commitments.map((c) => (
            <span key={`${c.order}/${c.line}`}>
              , {showNum(c.qty)} promised to {c.customer} ({c.order})
            </span>
          ))}
          .
        </p>
      )}
    </section>
  );
}
