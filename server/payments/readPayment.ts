import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { RefundView } from '../refunds/messages.ts';
import type { PaymentPage } from './messages.ts';
import { ATTEMPT, ATTEMPT_FROM, viewOfAttempt } from './paymentList.ts';

type Read = Parameters<typeof viewOfAttempt>[0] &
  Omit<PaymentPage, 'taking' | 'refunds' | 'letters' | 'left'>;

/** One payment with its whole story: what it was for, what the gateway said, what went back, what was written. */
export async function readPayment({ db }: Almanac, id: string): Promise<PaymentPage> {
  const row = await db.row<Read & { readonly takingId: string | null }>(
    `select ${ATTEMPT}, i.subscription_id::text as "subscriptionId", p.name as plan, a.reason, a.channel,
       a.request ->> 'statementText' as "statementText", a.gateway_charge as "gatewayCharge", g.name as gateway,
       a.response_code as "responseCode", to_char(a.sent_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "sentAt",
       to_char(a.settled_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "settledAt", a.rung, a.case_id::text as "caseId",
       a.taking_id::text as "takingId", a.gateway_charge is not null and g.disconnected_on is null as "byGateway", i.owed::text
     from ${ATTEMPT_FROM} join subscriptions s on s.id = i.subscription_id join rates r on r.id = s.rate_id
     join plans p on p.id = r.plan_id left join gateway_accounts g on g.id = a.gateway_account_id where a.id = $id`,
    { id },
  );
  if (!row) throw new RefusedCommand(404, 'There is no such payment.');
  const { takingId, ...read } = row;
  const view = viewOfAttempt(read);
  const { attemptState: _, sent: __, code: ___, card: ____, ...story } = read;
  const back = row.attemptState === 'collected' ? BigInt(row.amount) - BigInt(row.refunded) : 0n;
  return {
    ...story,
    ...view,
    expectedOn: row.expectedOn,
    taking: takingId === null ? null : await takingOf(db, takingId, id),
    refunds: await refundsOf(db, id),
    left: back.toString(),
    letters: await db.rows(
      `select l.id::text, l.subject, l.written_on as "writtenOn" from letters l
       where l.once_key in (select 'receipt:' || p.id from payments p where p.attempt_id = $id
                            union all select 'refund:' || f.id from refunds f where f.attempt_id = $id) order by l.id`,
      { id },
    ),
  };
}

async function takingOf(db: Almanac['db'], takingId: string, id: string): Promise<PaymentPage['taking']> {
  const taking = await db.row<Omit<NonNullable<PaymentPage['taking']>, 'others'>>(
    `select amount::text, over::text, received_on as "receivedOn", reference, note, taken_by as "takenBy" from takings where id = $takingId`,
    { takingId },
  );
  const others = await db.rows<{ id: string; invoice: string; amount: string }>(
    `select a.id::text, i.prefix || i.number as invoice, a.amount::text from attempts a join invoices i on i.id = a.invoice_id
     where a.taking_id = $takingId and a.id <> $id order by a.id`,
    { takingId, id },
  );
  return taking && { ...taking, others };
}

function refundsOf(db: Almanac['db'], id: string): Promise<RefundView[]> {
  return db.rows<RefundView>(
    `select f.id::text, f.state, f.means, f.currency, f.amount::text, f.reason, f.says, f.asked_on as "askedOn", f.asked_by as "askedBy",
       f.expected_on as "expectedOn", f.settled_on as "settledOn", n.prefix || n.number as "creditNote"
     from refunds f left join credit_notes n on n.id = f.credit_note_id
     where f.attempt_id = $id order by f.id`,
    { id },
  );
}
