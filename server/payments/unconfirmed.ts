import { money, onDate } from '../../core/letters/said.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { linkForLetter } from '../customers/link.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import type { ChargeRecord } from '../gateways/port.ts';
import { lockedInvoice } from '../invoices/lockInvoice.ts';
import { saidCard, saidPeriod, writeAbout } from '../notices/occasions.ts';
import { Attempt } from './Attempt.ts';

/** ISO 8583: the cardholder must confirm it, and has not. */
export const NOT_CONFIRMED = '70';

/** The last day on which a cardholder can confirm what is declined on a day, both `YYYY-MM-DD`. */
export const lastDayToConfirm = (expectedOn: string): string => formatDay(toDay(expectedOn) - 1);

type Told = 'collected' | 'under way' | 'waits for the cardholder';

/**
 * The cardholder's bank asks them to confirm a charge: it waits, and they are written to once, with the way to their own page,
 * from which they are sent on to the gateway's. Confirmed it is collected as any other; in the end it is declined and a case.
 */
export function noteUnconfirmed(
  almanac: Almanac,
  { id, invoiceId }: Attempt,
  { expectedOn }: ChargeRecord,
  on: string,
): Promise<Told> {
  return almanac.db.transaction(async (within): Promise<Told> => {
    const { invoice, subscription } = await lockedInvoice(invoiceId, within);
    const lock = within.LOCK.UPDATE;
    const attempt = await Attempt.findByPk(id, { transaction: within, lock, rejectOnEmpty: true });
    // A webhook was quicker.
    if (attempt.state !== 'under way') return attempt.state === 'collected' ? 'collected' : 'under way';
    // They were written to with the first answer that said so, in one transaction with it.
    if (attempt.waitsFor !== null) return 'waits for the cardholder';
    const until = expectedOn ?? formatDay(toDay(on) + 1);
    await attempt.update({ expectedOn: until, waitsFor: 'cardholder' }, { transaction: within });
    const method = await PaymentMethod.findByPk(attempt.paymentMethodId, { transaction: within });
    const number = `${invoice.prefix}${invoice.number}`;
    await writeAbout(
      almanac,
      subscription,
      {
        ...{
          event: 'confirm payment',
          onceKey: `confirm:${id}`,
          reason: `The bank asks for it: invoice ${number}`,
        },
        linkId: (await linkForLetter(subscription, on, within)).id,
        says: {
          ...{ invoice: number, amount: money(attempt.amount, invoice.currency) },
          ...{ date: onDate(lastDayToConfirm(until)), period: saidPeriod(invoice), card: saidCard(method) },
        },
      },
      on,
      within,
    );
    return 'waits for the cardholder';
  });
}
