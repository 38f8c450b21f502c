import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { Customer } from '../customers/Customer.ts';
import type { PaymentMethod } from '../customers/PaymentMethod.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import { methodInUse, type Charged } from '../payments/methodsInTurn.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { queueLetter } from './queueLetter.ts';
import type { SaidCard, Said } from '../../core/letters/said.ts';
import type { LetterEvent, LetterSays } from './templates.ts';

/** What a letter of an event says beyond the names that every letter has. */
export interface Occasion {
  readonly event: LetterEvent;
  readonly onceKey: string;
  readonly reason: string;
  readonly says: Omit<LetterSays, 'business' | 'customer' | 'plan'>;
  readonly caseId?: string | null;
  readonly linkId?: string | null;
  /** The document that goes with it. */
  readonly invoiceId?: string | null;
  readonly creditNoteId?: string | null;
}

/** Writes to the customer of a subscription; gives false where letters of this event are switched off. */
export async function writeAbout(
  almanac: Almanac,
  subscription: Pick<Subscription, 'id' | 'customerId' | 'rateId'>,
  occasion: Occasion,
  businessDate: string,
  within: Transaction,
): Promise<boolean> {
  const business = await theBusiness(within);
  const customer = await Customer.findByPk(subscription.customerId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const rate = await Rate.findByPk(subscription.rateId, { transaction: within, rejectOnEmpty: true });
  const plan = await Plan.findByPk(rate.planId, { transaction: within, rejectOnEmpty: true });
  const { says, ...rest } = occasion;
  return queueLetter(
    almanac,
    {
      ...rest,
      says: {
        ...says,
        business: business.name,
        customer: customer.name,
        plan: plan.outerName || plan.name,
      },
      to: customer.email,
      customerId: customer.id,
      subscriptionId: subscription.id,
      writtenOn: businessDate,
    },
    within,
  );
}

/** 'Larkfield ending 0019', or that there is none. */
export function sayCard(method: Pick<PaymentMethod, 'network' | 'lastFour'> | null): string {
  if (!method) return 'on file';
  return method.lastFour === '' ? method.network : `${method.network} ending ${method.lastFour}`;
}

/** The same for a letter, which says it in the language of its reader. */
export function saidCard(method: Pick<PaymentMethod, 'network' | 'lastFour'> | null): SaidCard {
  return { network: method?.network ?? '', lastFour: method?.lastFour ?? '' };
}

/** The card that a subscription's next charge would go to, for a letter. */
export async function saidCurrentCard(of: Charged, within: Transaction): Promise<SaidCard> {
  return saidCard(await methodInUse(of, within));
}

/** What an invoice is for: from a day to a day, or one day. */
export function saidPeriod(invoice: Pick<Invoice, 'periodFrom' | 'periodTo'>): Said {
  return { from: invoice.periodFrom, to: invoice.periodTo };
}
