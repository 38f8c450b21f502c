import { onDate } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { writeOff } from '../invoices/writeOff.ts';
import { writeAbout } from '../notices/occasions.ts';
import { raiseNeed } from '../run/needs.ts';
import { tellStaff } from '../staff/notices.ts';
import { dropEarly } from '../subscriptions/issuedEarly.ts';
import { isOver, standByDates, standEnded, standLapsed } from '../subscriptions/stand.ts';
import type { Climbing } from './climbing.ts';
import { CLOSED, settleCaseNeeds } from './closeCase.ts';
import { owedOf } from './unpaid.ts';
import { linkOfCase } from './write.ts';

/**
 * Lapses or ends the subscription as its ladder says, and tells the customer and the day sheet.
 * @param by its ladder was climbed to its end, or somebody gave it up before
 */
export async function takeFinalAction(
  almanac: Almanac,
  climbing: Climbing,
  by: 'ladder' | 'given up by staff',
  within: Transaction,
): Promise<void> {
  const { opened, subscription, ladder, businessDate } = climbing;
  const { id } = opened;
  const sum = await owedOf(almanac, climbing, within);
  const owed = sayAmount(sum.minor, sum.currency);
  const linkId = (await linkOfCase(climbing, within)).id;
  await opened.update(
    { ...CLOSED, state: 'given up', closedOn: businessDate, closedHow: by },
    { transaction: within },
  );
  await settleCaseNeeds(almanac, opened, businessDate, within);
  if (ladder.finalAction === 'leave') {
    // The invoices stay open and the subscription goes on.
    await standByDates(subscription, businessDate, within);
    return;
  }
  if (isOver(subscription)) return;
  const ends = ladder.finalAction === 'end';
  await dropEarly(almanac, subscription, businessDate, within);
  if (ends) await standEnded(subscription, { why: 'given up', closedOn: businessDate }, within);
  else await standLapsed(subscription, businessDate, within);
  if (ladder.finalAction === 'lapse and write off') await writeOff(almanac, id, businessDate, within);
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'lapsed',
      onceKey: `case:${id}:final`,
      reason: 'Recovery failed: the final notice',
      caseId: id,
      linkId,
      says: { amount: sum, date: onDate(businessDate) },
    },
    businessDate,
    within,
  );
  const customer = await Customer.findByPk(subscription.customerId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const why =
    by === 'given up by staff'
      ? 'Staff gave it up.'
      : subscription.collects === 'by hand'
        ? 'It was not paid, and the customer did not answer.'
        : 'All retries failed and the customer did not answer.';
  await tellStaff(
    almanac,
    {
      kind: 'subscription lapsed',
      onceKey: `lapsed:${id}`,
      subject: `${customer.name}: the subscription ${ends ? 'has ended' : 'has lapsed'}`,
      says: `The subscription of ${customer.name} ${ends ? 'has ended' : 'has lapsed'} with ${owed} open. ${why}`,
      writtenOn: businessDate,
    },
    within,
  );
  await raiseNeed(almanac, within, {
    onceKey: `lapsed:${id}`,
    arose: businessDate,
    kind: 'lapsed',
    says: `${ends ? 'Ended' : 'Lapsed'} with ${owed} open. ${why}`,
    subscriptionId: subscription.id,
    customerId: subscription.customerId,
  });
}
