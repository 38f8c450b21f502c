import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { NO_METHOD, type DeclineClass, type DeclineMeaning } from '../../core/recovery/declineCodes.ts';
import type { Almanac } from '../almanac.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import { raiseNeed } from '../run/needs.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { Ladder } from './Ladder.ts';
import { RecoveryCase } from './RecoveryCase.ts';

/**
 * Opens a recovery case for an invoice that could not be collected, or adds the invoice to the case that the
 * subscription already has (a subscription has at most one open).
 * @param meaning of the decline; null where a card that only its holder can mend was not tried at all
 */
export async function openOrJoinCase(
  almanac: Almanac,
  invoice: Invoice,
  meaning: DeclineMeaning | null,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const subscription = await Subscription.findByPk(invoice.subscriptionId, {
    transaction: within,
    lock: within.LOCK.UPDATE,
    rejectOnEmpty: true,
  });
  const open = await RecoveryCase.findOne({
    where: { subscriptionId: subscription.id, state: 'open' },
    transaction: within,
  });
  if (open) {
    await invoice.update({ caseId: open.id }, { transaction: within });
    if (meaning)
      await open.update(
        { declineClass: strongerOf(open.declineClass, meaning.class) },
        { transaction: within },
      );
    return;
  }
  if (subscription.state === 'lapsed') return; // Its case has been given up; the debt stays payable by hand.

  const ladder = await Ladder.findOne({
    where: { isDefault: true },
    transaction: within,
    rejectOnEmpty: true,
  });
  const { class: declineClass, says } = meaning ?? { ...NO_METHOD, says: 'the card needs its holder' };
  const tomorrow = formatDay(toDay(businessDate) + 1);
  const soon = declineClass === 'soon';
  const opened = await RecoveryCase.create(
    {
      subscriptionId: subscription.id,
      ladderId: ladder.id,
      state: 'open',
      declineClass,
      openedOn: businessDate,
      retryOn: soon ? tomorrow : null,
      nextRung: 0,
      nextRungOn: soon ? tomorrow : businessDate,
    },
    { transaction: within },
  );
  await invoice.update({ caseId: opened.id }, { transaction: within });
  if (subscription.state !== 'ended')
    await subscription.update({ state: 'overdue' }, { transaction: within });
  if (subscription.collects === 'automatic' && (declineClass === 'ask' || declineClass === 'never')) {
    await raiseNeed(almanac, within, {
      onceKey: `case:${opened.id}`,
      arose: businessDate,
      kind: 'card to be replaced',
      says: `Declined: ${says}. We do not try this card again; only the customer can mend it.`,
      subscriptionId: subscription.id,
      customerId: subscription.customerId,
    });
  }
}

const STRENGTH: readonly DeclineClass[] = ['soon', 'wait', 'ask', 'never'];

function strongerOf(a: DeclineClass, b: DeclineClass): DeclineClass {
  return STRENGTH.indexOf(a) >= STRENGTH.indexOf(b) ? a : b;
}
