import { onDate } from '../../core/letters/said.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { agreedText } from '../customers/agreed.ts';
import { collecting } from '../payments/charging.sql.ts';
import { Customer } from '../customers/Customer.ts';
import { findMethod } from '../customers/findMethod.ts';
import { linkForLetter } from '../customers/link.ts';
import { keepMethod } from '../customers/keepMethod.ts';
import type { MethodKind, MethodRole } from '../customers/methodMessages.ts';
import { mannersOf } from '../notices/formsFor.ts';
import { saidCard, sayCard, writeAbout } from '../notices/occasions.ts';
import { collectInvoice } from '../payments/collect.ts';
import { primaryMethod } from '../payments/methodsInTurn.ts';
import type { Collected } from '../../core/recovery/outcomes.ts';
import type { Channel } from '../payments/channel.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { wakeForCard } from '../subscriptions/trials.ts';
import { policyInForce } from '../policies/policies.ts';
import { tellStaff } from '../staff/notices.ts';
import { recordDone } from '../audit/audit.ts';
import type { Debt } from './messages.ts';
import { isSuspended } from './suspensions.sql.ts';

export interface NewMethod {
  readonly customerId: string;
  /** The gateway's token for the card; the number went from the browser straight to the gateway. */
  readonly token: string;
  readonly channel: Channel;
  readonly kind?: MethodKind;
  /** The gateway account that it was given to, where staff chose one. */
  readonly keptAt?: string | undefined;
  /** What it is to be; without it, the primary one. */
  readonly role?: Exclude<MethodRole, 'own'>;
}

/** What became of the debts when a new card was given: whether anything was charged, and how it went. */
export interface MethodTaken {
  readonly card: string;
  readonly charged: readonly { readonly invoice: string; readonly outcome: Collected }[];
}

/**
 * Takes a new or updated card: the mandate is recorded, the customer is told, and every open debt is charged to
 * it at once, which closes its case.
 */
export async function takeNewMethod(almanac: Almanac, given: NewMethod): Promise<MethodTaken> {
  const { customerId, channel, keptAt, token, kind = 'card', role = 'primary' } = given;
  const found = await findMethod(almanac, { kind, token }, '/token', { customerId, channel, keptAt });
  const { methodId, businessDate } = await almanac.db.transaction(async (within) => {
    const today = await businessDateOf(almanac, within);
    const policy = await policyInForce(almanac, 'terms of service', today, within);
    const policyId = policy?.id ?? null;
    const { name: business } = await Business.findOne({ transaction: within, rejectOnEmpty: true });
    // What is kept are the very words that stood on their page, in the language that they read it in.
    const manners = await mannersOf(almanac, [customerId], within);
    const { language } = manners.get(customerId) ?? manners.usual;
    const agreed = { channel, agreedText: agreedText(business, kind, language), on: today, policyId, role };
    const had = await primaryMethod(customerId, within);
    const method = await keepMethod(almanac, customerId, found, agreed, within);
    await wakeForCard(almanac, given.customerId, today, within);
    const subscription = await Subscription.findOne({
      where: { customerId: given.customerId },
      order: [['id', 'desc']],
      transaction: within,
    });
    if (subscription) {
      const who = given.channel === 'staff' ? 'Staff' : 'The customer';
      const onceKey = `method:${method.id}:${today}`;
      const letter =
        had && method.role === 'primary'
          ? {
              ...{ event: 'card replaced' as const, onceKey, reason: `${who} changed the card` },
              says: { card: saidCard(method), how: kind === 'card' ? 'card' : 'bank account' },
            }
          : {
              ...{ event: 'mandate confirmed' as const, onceKey, reason: `${who} gave a card` },
              linkId: (await linkForLetter(subscription, today, within)).id,
              says: {
                card: saidCard(method),
                date: onDate(today),
                reason: agreed.agreedText,
              },
            };
      await writeAbout(almanac, subscription, letter, today, within);
    }
    const customer = await Customer.findByPk(given.customerId, { transaction: within, rejectOnEmpty: true });
    const says = `${customer.name} granted a mandate for ${sayCard(method)}.`;
    await tellStaff(
      almanac,
      {
        kind: 'mandate granted',
        onceKey: `mandate:${method.id}:${today}`,
        subject: `${customer.name} granted a mandate`,
        says,
        writtenOn: today,
      },
      within,
    );
    await recordDone(
      almanac,
      {
        did: 'took another card',
        subject: customer.name,
        after: { card: sayCard(method), role: method.role },
      },
      within,
    );
    return { methodId: method.id, businessDate: today };
  });
  const charged = await collectDebts(
    almanac,
    { ...given, methodId },
    `method ${methodId} ${businessDate}`,
    businessDate,
    'new method',
  );
  return { card: sayCard(found), charged };
}

/** The last day on which the charge of invoice `i` can be confirmed by its cardholder, where one waits for that. */
const UNCONFIRMED = `select expected_on - 1 from attempts
  where invoice_id = i.id and state = 'under way' and waits_for = 'cardholder'`;

/**
 * What a customer owes, of all subscriptions: every invoice of a case, left open past its day, or paid by hand, and what they are
 * asked to confirm. This is what is
 * shown before a card is taken or a payment made, and what is then charged.
 */
export function debtsOf(almanac: Almanac, customerId: string, businessDate: string): Promise<Debt[]> {
  return almanac.db.rows<Debt>(
    `select i.id, i.prefix || i.number as number, min(d.due_on) as "dueOn", i.currency, sum(d.owed)::text as owed,
       exists (${collecting('i')}) as "underWay",
       (${UNCONFIRMED}) as "confirmBy"
     from invoices i join open_dues d on d.invoice_id = i.id join subscriptions s on s.id = i.subscription_id
     where i.customer_id = $customerId
       and case when d.of_several then d.due_on <= $businessDate or (s.collects = 'by hand' and d.place = (
                  select min(place) from open_dues o where o.invoice_id = i.id))
                else i.case_id is not null or d.due_on < $businessDate or s.collects = 'by hand'
                  or (d.due_on = $businessDate and s.without_method = 'wait') or exists (${UNCONFIRMED}) end
     group by i.id order by min(d.due_on), i.id`,
    { customerId, businessDate },
  );
}

/**
 * Charges what a customer owes: every invoice of an open case or left open by a lapse. With a method it is that one alone, as
 * far as what is owed may be charged to it; without one it is the one in use.
 */
export async function collectDebts(
  almanac: Almanac,
  by: {
    readonly customerId: string;
    readonly channel: NewMethod['channel'] | 'by itself';
    readonly methodId?: string;
  },
  occasion: string,
  businessDate: string,
  reason: 'new method' | 'by the customer',
): Promise<MethodTaken['charged']> {
  // While collecting is stopped a new card is kept, and charged when it goes on; who pays by their own will pays.
  if (reason === 'new method' && (await isSuspended(almanac, by.customerId, businessDate))) return [];
  const debts = await debtsOf(almanac, by.customerId, businessDate);
  const charged: { invoice: string; outcome: Collected }[] = [];
  for (const { id, number } of debts) {
    const { channel, methodId } = by;
    const request = {
      ...{ invoiceId: id, reason, channel, businessDate, occasion },
      ...(methodId === undefined ? {} : { methodId }),
    };
    const outcome = await collectInvoice(almanac, request);
    if (outcome !== 'nothing to collect') charged.push({ invoice: number, outcome });
  }
  return charged;
}
