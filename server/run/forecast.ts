import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { Almanac } from '../almanac.ts';
import type { LawFacts } from '../../core/terms/law.ts';
import { LAW_COLUMNS, loadLaw } from '../subscriptions/law.ts';
import type { SheetMovement } from './messages.ts';

export interface PlannedPayment extends SheetMovement {
  readonly date: string;
}

/**
 * What will be charged between two days, inclusive: the payments that the terms of all running subscriptions
 * come to, and the invoices that are open and not yet due or tried.
 */
export async function plannedPayments(almanac: Almanac, from: string, to: string): Promise<PlannedPayment[]> {
  const open = await almanac.db.rows<PlannedPayment>(
    `select d.due_on as date, i.subscription_id::text as "subscriptionId", c.name as customer, p.name as plan,
       i.prefix || i.number as invoice, d.owed::text as amount, i.currency
     from open_dues d join invoices i on i.id = d.invoice_id join customers c on c.id = i.customer_id
     join subscriptions s on s.id = i.subscription_id
     join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
     where d.due_on between $from and $to and (i.case_id is null or d.of_several) and s.state <> 'lapsed'`,
    { from, to },
  );
  const running = await almanac.db.rows<
    LawFacts & { id: string; walk: WalkPosition | null; customer: string; plan: string }
  >(
    `select s.id, s.terms, ${LAW_COLUMNS}, s.walk, c.name as customer, p.name as plan
     from subscriptions s join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id
     join plans p on p.id = r.plan_id
     where s.state not in ('lapsed', 'ended') and s.wake_on <= $to`,
    { to },
  );
  const last = toDay(to);
  const planned: PlannedPayment[] = [...open];
  const law = await loadLaw(almanac);
  for (const { id, walk, customer, plan, ...facts } of running) {
    const { terms } = facts;
    const coming = new PaymentWalk(law.compile(facts), walk ?? undefined);
    for (let payment = coming.next(); payment !== null && payment.from <= last; payment = coming.next()) {
      const date = formatDay(payment.dueOn);
      if (payment.due === 0n || date < from || date > to) continue;
      const amount = payment.due.toString();
      planned.push({
        date,
        subscriptionId: id,
        customer,
        plan,
        invoice: '',
        amount,
        currency: terms.currency,
      });
    }
  }
  return planned.sort((a, b) =>
    a.date < b.date ? -1 : a.date > b.date ? 1 : a.customer.localeCompare(b.customer),
  );
}
