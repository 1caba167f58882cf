import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { DayField } from '../../parts/DayField';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useRef, useState } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { PageHead } from '../../parts/bits';
import { showDay, showMoney } from '../../base/format';
import { Load } from '../../parts/states';
import { Whole } from '../../parts/Whole';
import { readDecimal, writeDecimal } from '../../base/decimal';
import { useCommand } from '../../parts/useCommand';
import { Packages } from './Packages';

type House = Schemas['HouseView'];
const weekdays = [t`Sun`, t`Mon`, t`Tue`, t`Wed`, t`Thu`, t`Fri`, t`Sat`];
const week = [1, 2, 3, 4, 5, 6, 0];

/** When each warehouse works, how long services take, and what needs approval. */
export function SettingsPage() {
  const settings = useQuery(questions.settings());
  const { may } = useSigned();
  const mine = may('change the settings');
  return (
    <Page>
      <PageHead title={t`Settings`} sub={mine ? undefined : t`A manager changes them`} />
      <Load of={settings}>
        {(s) => (
          <div className="grid grid-cols-[minmax(0,1fr)_400px] gap-8">
            <datalist id="zones">
              {Intl.supportedValuesOf('timeZone').map((z) => (
                <option key={z} value={z} />
              ))}
            </datalist>
            <div className="space-y-5">
              {s.houses.map((h) => (
                <HouseRules key={h.code + h.workdays.join() + h.cut_off + h.handling_days + h.timezone} h={h} mine={mine} />
              ))}
              <Packages of={s.packages} mine={mine} />
            </div>
            <div className="space-y-6">
              <Transit s={s} mine={mine} />
              <Limit key={s.quote_limit_minor} minor={s.quote_limit_minor} currency={s.currency} mine={mine} />
              <Prefixes of={s.prefixes} mine={mine} />
              <Company key={s.company_prefix} prefix={s.company_prefix} mine={mine} />
              <Link to="/licences" className="ref">
                {t`Licences of what ships with Journeyman`}
              </Link>
            </div>
          </div>
        )}
      </Load>
    </Page>
  );
}

function HouseRules({ h, mine }: { h: House; mine: boolean }) {
  const save = useCommand('/api/set-house');
  const [days, setDays] = useState(h.workdays);
  const [cut, setCut] = useState(h.cut_off);
  const [handling, setHandling] = useState<number | undefined>(h.handling_days);
  const [zone, setZone] = useState(h.timezone);
  const changed =
    days.join() !== h.workdays.join() || cut !== h.cut_off || handling !== h.handling_days || zone.trim() !== h.timezone;
  return (
    <section aria-label={h.name} className="border-b border-line pb-4">
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="text-lead">
          {h.name} <span className="text-mute">{h.code}</span>
        </h2>
        <span className="text-mute">
          <Trans>What is ordered now can leave {showDay(h.ready)}.</Trans>
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <fieldset disabled={!mine} className="flex gap-1" aria-label={t`Works on`}>
          {week.map((i) => (
            <button
              key={i}
              className="btn btn-xs btn-pill !px-2"
              aria-pressed={days.includes(i)}
              onClick={() => setDays((was) => (was.includes(i) ? was.filter((d) => d !== i) : [...was, i].sort((a, b) => a - b)))}
            >
              {weekdays[i]}
            </button>
          ))}
        </fieldset>
        <label className="flex items-center gap-1.5">
          <span className="text-mute">{t`cut-off`}</span>
          <input
            className="input input-sm w-[112px]"
            type="time"
            disabled={!mine}
            value={cut}
            onChange={(e) => setCut(e.target.value)}
          />
        </label>
        <label className="flex items-center gap-1.5">
          <span className="text-mute">{t`handling`}</span>
          <Whole
            className="qty"
            label={t`Handling, working days`}
            most={30}
            disabled={!mine}
            value={handling}
            set={setHandling}
          />
          <span className="text-mute">{t`working days`}</span>
        </label>
        {(mine || h.timezone) && (
          <label className="flex items-center gap-1.5">
            <span className="text-mute">{t`time zone`}</span>
            <input
              className="input input-sm w-40"
              list="zones"
              maxLength={60}
              placeholder={t`the firm’s`}
              disabled={!mine}
              value={zone}
              onChange={(e) => setZone(e.target.value)}
            />
          </label>
        )}
        {mine && (
          <button
            className="btn btn-sm"
            disabled={!changed || days.length === 0 || save.busy}
            onClick={() =>
              save.run({
                ask: {
                  warehouse: h.code,
                  workdays: days,
                  cut_off: cut,
                  handling_days: handling ?? 0,
                  timezone: zone.trim(),
                },
              })
            }
          >
            {t`Save`}
          </button>
        )}
      </div>
      <Closed h={h} mine={mine} />
      <Floor key={JSON.stringify(h.floor)} h={h} mine={mine} />
    </section>
  );
}

/** What walking and picking are reckoned with. */
const measures: [keyof House['floor'], string, string, number][] = [
  ['aisle_cm', t`from aisle to aisle`, t`cm`, 10_000],
  ['place_cm', t`from place to place`, t`cm`, 10_000],
  ['walk_m_min', t`walked in a minute`, t`m`, 1000],
  ['row_s', t`for a row`, t`s`, 3600],
  ['unit_ms', t`for a unit`, t`ms`, 3_600_000],
  ['pallet_kg', t`on a pallet`, t`kg`, 100_000],
  ['pallet_l', t`and`, t`l`, 100_000],
];

/** How the floor is laid out and how quickly it works. */
function Floor({ h, mine }: { h: House; mine: boolean }) {
  const save = useCommand('/api/set-floor');
  const [floor, setFloor] = useState(h.floor);
  const changed = measures.some(([name]) => floor[name] !== h.floor[name]);
  return (
    <form
      className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2"
      aria-label={t`Floor of ${h.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        save.run({ ask: { warehouse: h.code, ...floor } });
      }}
    >
      <span className="text-mute">{t`Floor`}</span>
      {measures.map(([name, text, unit, most]) => (
        <label key={name} className="flex items-center gap-1.5">
          <span className="text-mute">{text}</span>
          <Whole
            className="qty !w-[62px]"
            label={`${text}, ${unit}`}
            most={most}
            disabled={!mine}
            value={floor[name]}
            set={(n) => setFloor((was) => ({ ...was, [name]: n ?? 0 }))}
          />
          <span className="text-mute">{unit}</span>
        </label>
      ))}
      {mine && (
        <button className="btn btn-sm" disabled={!changed || save.busy}>
          {t`Save floor`}
        </button>
      )}
    </form>
  );
}

function Closed({ h, mine }: { h: House; mine: boolean }) {
  const close = useCommand('/api/close-days');
  const [day, setDay] = useState('');
  const [name, setName] = useState('');
  const file = useRef<HTMLInputElement>(null);
  return (
    <div className="mt-3">
      <div className="flex flex-wrap items-center gap-2">
        <span className="text-mute">{t`Closed`}</span>
        {h.closed.length === 0 && <span className="text-mute">{t`on no day from today on`}</span>}
        {h.closed.slice(0, 14).map((c) => (
          <span key={c.day} className="btn btn-xs btn-pill" title={c.name}>
            {showDay(c.day)} <span className="max-w-[110px] truncate text-mute">{c.name}</span>
            {mine && (
              <button
                className="cursor-pointer text-mute hover:text-ink"
                aria-label={t`Open ${h.code} on ${showDay(c.day)} again`}
                onClick={() => close.run({ ask: { warehouse: h.code, day: c.day, open: true } })}
              >
                ×
              </button>
            )}
          </span>
        ))}
        {h.closed.length > 14 && (
          <span className="text-mute">
            <Trans>and {h.closed.length - 14} more</Trans>
          </span>
        )}
      </div>
      {mine && (
        <form
          className="mt-2 flex flex-wrap items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            close.run({ ask: { warehouse: h.code, day, name } });
            setDay('');
            setName('');
          }}
        >
          <DayField label={t`Close ${h.code} on`} value={day} set={setDay} />
          <input
            className="input input-sm w-[150px]"
            aria-label={t`Why it is closed`}
            placeholder={t`Why`}
            maxLength={120}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button className="btn btn-sm" disabled={!day || close.busy}>
            {t`Close it that day`}
          </button>
          <button type="button" className="btn btn-sm" onClick={() => file.current?.click()}>
            {t`From a calendar file (.ics)…`}
          </button>
          <input
            ref={file}
            type="file"
            accept=".ics,text/calendar"
            className="hidden"
            aria-label={t`Calendar of closed days of ${h.code}`}
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = '';
              if (f) void f.text().then((text) => close.run({ ask: { warehouse: h.code, file: text } }));
            }}
          />
        </form>
      )}
    </div>
  );
}

/** When the carrier of a service comes; empty for the cut-off of the warehouse. */
function CutOff({ service, at, mine }: { service: string; at: string; mine: boolean }) {
  const save = useCommand('/api/set-service');
  const [typed, setTyped] = useState(at);
  const done = () => typed !== at && save.run({ ask: { service, cut_off: typed } });
  if (!mine) return <>{at || <span className="text-mute">{t`cut-off`}</span>}</>;
  return (
    <input
      className="qty !w-[52px]"
      aria-label={t`When the carrier of ${service} comes`}
      placeholder="–"
      maxLength={5}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => e.key === 'Enter' && done()}
    />
  );
}

function Transit({ s, mine }: { s: Schemas['SettingsView']; mine: boolean }) {
  return (
    <section>
      <h2 className="mb-1 text-lead">{t`Working days under way`}</h2>
      <table className="grid-table" aria-label={t`Working days under way`}>
        <thead>
          <tr>
            <th>{t`To`}</th>
            {s.services.map((x) => (
              <th key={x.code} className="num" title={x.name}>
                {x.code}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {s.zones.map((z) => (
            <tr key={z.zone}>
              <td title={z.places.join(', ')}>{z.zone}</td>
              {s.services.map((x) => (
                <td key={x.code} className="num">
                  {z.transit[x.code] ?? <span className="text-mute">{x.transit_days}</span>}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <td>{t`everywhere else`}</td>
            {s.services.map((x) => (
              <td key={x.code} className="num">
                {x.transit_days}
              </td>
            ))}
          </tr>
          <tr>
            <td>{t`carrier comes at`}</td>
            {s.services.map((x) => (
              <td key={x.code} className="num">
                <CutOff key={s.cut_offs[x.code]} service={x.code} at={s.cut_offs[x.code] ?? ''} mine={mine} />
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </section>
  );
}

const plurals: Record<string, string> = {
  order: t`Orders`,
  quote: t`Quotes`,
  'request to buy': t`Requests to buy`,
  'pick list': t`Pick lists`,
  shipment: t`Shipments`,
  package: t`Packages`,
};

/** What numbers of documents begin with. */
function Prefixes({ of, mine }: { of: Schemas['PrefixView'][]; mine: boolean }) {
  const save = useCommand('/api/set-prefixes');
  const [typed, setTyped] = useState<Record<string, string>>({});
  const now = of.map((p) => ({ ...p, prefix: typed[p.kind] ?? p.prefix }));
  const changed = now.filter((p, i) => p.prefix !== of[i]?.prefix);
  return (
    <section className="mt-5">
      <h2 className="mb-1 text-lead">{t`Numbers begin with`}</h2>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.run({ ask: { prefixes: changed } });
        }}
      >
        <div className="grid grid-cols-[1fr_auto] items-center gap-x-3 gap-y-1">
          {now.map((p) => (
            <label key={p.kind} className="contents">
              <span className="text-mute">{plurals[p.kind] ?? p.kind}</span>
              {mine ? (
                <input
                  className="input input-sm w-[90px]"
                  maxLength={8}
                  value={p.prefix}
                  onChange={(e) => setTyped((was) => ({ ...was, [p.kind]: e.target.value.toUpperCase() }))}
                />
              ) : (
                <b>{p.prefix}</b>
              )}
            </label>
          ))}
        </div>
        {mine && (
          <button className="btn btn-sm mt-2" disabled={changed.length === 0 || save.busy}>
            {t`Save`}
          </button>
        )}
      </form>
    </section>
  );
}

/** With what the codes on labels begin, which carriers and customers read. */
function Company({ prefix, mine }: { prefix: string; mine: boolean }) {
  const save = useCommand('/api/set-company');
  const [typed, setTyped] = useState(prefix);
  return (
    <section>
      <h2 className="mb-1 text-lead">{t`GS1 company prefix`}</h2>
      <form
        className="flex items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          save.run({ ask: { prefix: typed } });
        }}
      >
        {mine ? (
          <>
            <input
              className="input input-sm w-[150px]"
              aria-label={t`GS1 company prefix`}
              inputMode="numeric"
              maxLength={12}
              value={typed}
              onChange={(e) => setTyped(e.target.value.replace(/\D/g, ''))}
            />
            <button className="btn btn-sm" disabled={typed === prefix || typed.length < 4 || save.busy}>
              {t`Save`}
            </button>
          </>
        ) : (
          <b>{prefix}</b>
        )}
        <span className="text-mute">{t`The SSCC on each label begins with it.`}</span>
      </form>
    </section>
  );
}

function Limit({ minor, currency, mine }: { minor: number; currency: string; mine: boolean }) {
  const save = useCommand('/api/set-quote-limit');
  const [text, setText] = useState(writeDecimal(minor, 2));
  const value = readDecimal(text, 2);
  return (
    <section>
      <h2 className="mb-1 text-lead">{t`Quotes`}</h2>
      {mine ? (
        <form
          className="flex items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (value !== undefined) save.run({ ask: { minor: value } });
          }}
        >
          <label className="flex items-center gap-2">
            <span className="whitespace-nowrap">{t`A manager approves above`}</span>
            <input className="qty !w-[90px]" inputMode="decimal" value={text} onChange={(e) => setText(e.target.value)} />
          </label>
          {currency}
          <button className="btn btn-sm" disabled={value === undefined || value === minor || save.busy}>
            {t`Save`}
          </button>
          {value === undefined && (
            <span role="alert" className="late">
              {t`Type an amount, such as ${writeDecimal(150_000, 2)}`}
            </span>
          )}
        </form>
      ) : (
        <p>
          <Trans>A manager approves them above {showMoney(minor, currency)}.</Trans>
        </p>
      )}
    </section>
  );
}
