import { randomUUID } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { queueLetter } from '../notices/queueLetter.ts';
import { raiseNeed } from '../run/needs.ts';
import { tellStaff } from '../staff/notices.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { Customer } from './Customer.ts';
import type { CustomerLink } from './CustomerLink.ts';
import { linkForCase, linkForLetter } from './link.ts';
import type { CustomerMessage } from './messages.ts';

/** Most messages of a thread that are shown. */
const SHOWN = 200;

/** What a customer and staff wrote to each other, the oldest first. */
export function readCorrespondence(
  almanac: Almanac,
  customerId: string,
  within?: Transaction,
): Promise<CustomerMessage[]> {
  return almanac.db.rows<CustomerMessage>(
    `select * from (
       select id::text, direction, says, written_on as "writtenOn", written_by as "writtenBy",
         subscription_id::text as "subscriptionId"
       from customer_messages where customer_id = $customerId order by customer_messages.id desc limit ${SHOWN}) m
     order by m.id::bigint`,
    { customerId },
    within,
  );
}

/** Keeps what a customer writes: it is a need on the day sheet until somebody answers, and staff may be told of it. */
export async function takeMessage(
  almanac: Almanac,
  from: { readonly customerId: string; readonly subscriptionId: string },
  says: string,
): Promise<void> {
  const today = await businessDateOf(almanac);
  const customer = await Customer.findByPk(from.customerId, { rejectOnEmpty: true });
  const onceKey = `wrote:${from.customerId}:${randomUUID()}`;
  await almanac.db.transaction(async (within) => {
    await keep(almanac, { ...from, direction: 'in', says, writtenOn: today, writtenBy: '' }, within);
    await raiseNeed(almanac, within, {
      ...{ onceKey, arose: today, kind: 'customer wrote', says: `${customer.name} writes: ${says}` },
      ...from,
    });
    await tellStaff(
      almanac,
      {
        kind: 'customer wrote',
        onceKey,
        subject: `${customer.name} wrote`,
        says: `${customer.name} writes:\n${says}\n\nAnswer in the almanac, under the customer, or to ${customer.email}.`,
        replyTo: customer.email,
        writtenOn: today,
      },
      within,
    );
  });
}

/**
 * Writes to a customer, by letter and on the customer's own page; what they wrote before is seen to by it.
 * @param about the recovery case that it is written about: its letter carries the link of that case
 */
export async function writeToCustomer(
  almanac: Almanac,
  customerId: string,
  says: string,
  about?: { readonly caseId: string; readonly subscriptionId: string },
): Promise<CustomerMessage[]> {
  const today = await businessDateOf(almanac);
  return almanac.db.transaction(async (within) => {
    const customer = await Customer.findByPk(customerId, { transaction: within });
    if (!customer) throw new RefusedCommand(404, 'There is no such customer.');
    const subscription = await Subscription.findOne({
      where: { customerId, ...(about ? { id: about.subscriptionId } : {}) },
      order: [['id', 'DESC']],
      transaction: within,
    });
    const business = await Business.findOne({ transaction: within, rejectOnEmpty: true });
    const { who } = askerNow();
    const id = await keep(
      almanac,
      {
        ...{ customerId, subscriptionId: subscription?.id ?? null, direction: 'out', says },
        ...{ writtenOn: today, writtenBy: who },
      },
      within,
    );
    await queueLetter(
      almanac,
      {
        ...{ onceKey: `message:${id}`, event: 'message', reason: 'A message to the customer' },
        says: { business: business.name, customer: customer.name, plan: '', reason: says },
        ...{ to: customer.email, customerId, subscriptionId: subscription?.id ?? null, writtenOn: today },
        linkId: subscription ? (await linkOf(subscription, about?.caseId, today, within)).id : null,
        caseId: about?.caseId ?? null,
      },
      within,
    );
    await almanac.db.rows(
      `update needs set settled_on = $today
       where kind = 'customer wrote' and customer_id = $customerId and settled_on is null`,
      { today, customerId },
      within,
    );
    await recordDone(
      almanac,
      { did: 'wrote to a customer', subject: customer.name, after: { says } },
      within,
    );
    return readCorrespondence(almanac, customerId, within);
  });
}

function linkOf(
  subscription: Subscription,
  caseId: string | undefined,
  today: string,
  within: Transaction,
): Promise<CustomerLink> {
  const { id: subscriptionId, customerId } = subscription;
  return caseId === undefined
    ? linkForLetter(subscription, today, within)
    : linkForCase({ caseId, customerId, subscriptionId }, today, within);
}

async function keep(
  almanac: Almanac,
  message: {
    readonly customerId: string;
    readonly subscriptionId: string | null;
    readonly direction: 'in' | 'out';
    readonly says: string;
    readonly writtenOn: string;
    readonly writtenBy: string;
  },
  within: Transaction,
): Promise<string> {
  const kept = await almanac.db.row<{ id: string }>(
    `insert into customer_messages (customer_id, subscription_id, direction, says, written_on, written_by)
     values ($customerId, $subscriptionId, $direction, $says, $writtenOn, $writtenBy) returning id::text`,
    message,
    within,
  );
  return kept?.id ?? '';
}
