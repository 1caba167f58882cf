import { t } from '@lingui/core/macro';
import { Trans } from '@lingui/react/macro';
import { Act } from '../../parts/Act';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams } from '@tanstack/react-router';
import { useState } from 'react';
import { questions } from '../../base/questions';
import { type Schemas } from '../../api/call';
import { Page } from '../../parts/Page';
import { useSigned } from '../../base/session';
import { can, shipRules } from '../../parts/asides';
import { DocumentLink, Facts, Fault, ItemLink, PageHead, Tier } from '../../parts/bits';
import { ReasonDialog } from '../../parts/Dialog';
import { showDay, showMoney, showNum, showTime, showShare } from '../../base/format';
import { JourneyBar } from '../../parts/JourneyBar';
import { Load } from '../../parts/states';
import { useCommand } from '../../parts/useCommand';
import { QuoteState } from '../../parts/QuoteState';
import { say } from '../../base/say';

type Q = Schemas['QuoteView'];

export function QuotePage() {
  const number: string = useParams({ strict: false }).number ?? '';
  const quote = useQuery({
    ...questions.quote(number),
  });
  return (
    <Page aside={quote.data ? <About q={quote.data} /> : <span />} tray={quote.data && <Tray q={quote.data} />}>
      <Load of={quote}>{(q) => <Body q={q} />}</Load>
    </Page>
  );
}

function Body({ q }: { q: Q }) {
  return (
    <>
      <PageHead
        title={t`Quote ${q.number}`}
        sub={
          <span className="flex items-center gap-2">
            <Trans>
              <Link to="/customers/$number" params={{ number: q.customer_code }} className="ref text-ink">
                {q.customer}
              </Link>
              <Tier n={q.tier} /> requested {showDay(q.wanted)} · valid until {showDay(q.expires)} ·
            </Trans>{' '}
            <QuoteState q={q} />
          </span>
        }
      >
        <span className="font-semibold">{showMoney(q.value_minor, q.currency)}</span>
      </PageHead>
      {q.data_fault && (
        <p className="mb-2">
          <Fault>{q.data_fault}</Fault>
        </p>
      )}
      <table className="grid-table" aria-label={t`What is quoted`}>
        <thead>
          <tr>
            <th className="num">{t`Line`}</th>
            <th>{t`Item`}</th>
            <th>{t`Warehouse`}</th>
            <th className="num">{t`Quoted`}</th>
            <th className="num">{t`Accepted`}</th>
            <th className="num">{t`List price`}</th>
            <th className="num">{t`Less`}</th>
            <th className="num">{t`Price`}</th>
            <th className="num">{t`Value`}</th>
            <th>{t`Quoted date`}</th>
          </tr>
        </thead>
        <tbody>
          {q.items.map((l) => (
            <tr key={l.line}>
              <td className="num">{l.line}</td>
              <td className="max-w-[260px] truncate" title={l.item}>
                <ItemLink sku={l.sku} /> <span className="text-mute">{l.item}</span>
              </td>
              <td>{l.warehouse}</td>
              <td className="num">{showNum(l.qty)}</td>
              <td className="num">{l.accepted > 0 ? showNum(l.accepted) : ''}</td>
              <td className="num">{showMoney(l.list_minor, q.currency)}</td>
              <td className="num">{l.discount_bp > 0 && `${l.discount_bp / 100} %`}</td>
              <td className="num">{l.data_fault ? <Fault>{l.data_fault}</Fault> : showMoney(l.price_minor, q.currency)}</td>
              <td className="num">{showMoney(l.value_minor, q.currency)}</td>
              <td>{l.told ? showDay(l.told) : <span className="text-mute">{t`no day`}</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-5 grid grid-cols-2 gap-8">
        <section>
          <h2 className="mb-1 text-lead">{t`Orders`}</h2>
          {q.orders.length === 0 && (
            <p className="text-mute">{t`Nothing yet. What can be promised is computed again when it is accepted.`}</p>
          )}
          {q.orders.map((o) => (
            <p key={o.number} className="flex h-7 items-center gap-3">
              <DocumentLink kind="order" number={o.number} /> {showMoney(o.value_minor, o.currency)}
              <JourneyBar at={o.at} width={160} of={o.number} />
            </p>
          ))}
        </section>
        <section aria-label={t`Trail`}>
          <h2 className="mb-1 text-lead">{t`Trail`}</h2>
          {q.trail.map((entry) => (
            <p key={entry.at + say(entry.text)}>
              <span className="text-mute">{showTime(entry.at)}</span> {entry.who} {say(entry.text)}
            </p>
          ))}
        </section>
      </div>
    </>
  );
}

function About({ q }: { q: Q }) {
  return (
    <>
      <h2 className="mb-1 text-lead">{t`Ship to`}</h2>
      <p>
        {q.ship_to.name}, {q.ship_to.street}, {q.ship_to.city} {q.ship_to.postcode}, {q.ship_to.country}
      </p>
      <p className="mb-3 text-mute">
        {q.service}
        {q.terms && ` · ${q.terms}`} · {shipRules[q.ship_rule]}
        {q.customer_ref && t` · customer’s order number ${q.customer_ref}`}
      </p>
      {q.note && <p className="mb-3">“{q.note}”</p>}
      <Facts
        rows={[
          [t`Value`, showMoney(q.value_minor, q.currency)],
          [t`Margin`, q.data_fault || q.margin_bp === undefined ? t`not known` : showShare(q.margin_bp)],
          [t`Needs approval above`, showMoney(q.limit_minor, q.currency)],
          [t`Approved by`, q.approved_by ?? (q.state === 'to approve' ? t`nobody yet` : t`not needed`)],
          [t`Made by`, q.made_by],
        ]}
      />
    </>
  );
}

function Tray({ q }: { q: Q }) {
  const { may } = useSigned();
  const go = useNavigate();
  const [asking, setAsking] = useState(false);
  const approve = useCommand('/api/approve-quote');
  const withdraw = useCommand('/api/withdraw-quote');
  const named = { number: q.number, seen: q.version };
  const acts = [
    {
      verb: 'accept',
      text: t`Accept it, or part of it`,
      k: 'a',
      main: true,
      role: may('enter an order'),
      go: () => void go({ to: '/entry', search: { quote: q.number, state: 'accept' } }),
    },
    { verb: 'approve', text: t`Approve`, k: 'v', role: may('approve a quote'), go: () => approve.run({ ask: named }) },
    {
      verb: 'change',
      text: t`Change`,
      k: 'c',
      role: may('quote'),
      go: () => void go({ to: '/entry', search: { quote: q.number } }),
    },
    { verb: 'withdraw', text: t`Withdraw`, k: 'w', role: may('quote'), go: () => setAsking(true) },
  ];
  const why = say(can(q, 'accept').why);
  return (
    <>
      <span className="font-semibold">
        {q.state === 'accepted'
          ? t`All of it is accepted`
          : why
            ? t`It cannot be accepted: ${why}`
            : t`It can be accepted, whole or in part`}
      </span>
      <span className="ml-auto" />
      {acts
        .filter((a) => a.role || (a.verb === 'approve' && can(q, 'approve').qty > 0))
        .map((a) => (
          <Act
            key={a.verb}
            keys={a.k}
            does={t`${a.text} the quote`}
            look={a.main ? undefined : 'quiet'}
            why={!a.role ? t`Approving is for a manager.` : say(can(q, a.verb).why) === why ? '' : say(can(q, a.verb).why)}
            off={can(q, a.verb).qty === 0}
            run={a.go}
          >
            {a.text}
          </Act>
        ))}
      {asking && (
        <ReasonDialog
          title={t`Withdraw ${q.number}?`}
          label={t`Why? It stays in its trail; what was accepted of it stays, too.`}
          verb={t`Withdraw it`}
          suggestions={[t`The customer does not want it`, t`Replaced by another quote`, t`The price no longer holds`]}
          close={() => setAsking(false)}
          go={(reason) => {
            setAsking(false);
            withdraw.run({ ask: named, reason });
          }}
        />
      )}
    </>
  );
}
