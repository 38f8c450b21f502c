import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import { outlineOf } from '../../core/listing/outline.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Almanac } from '../almanac.ts';
import type { Customer } from '../customers/Customer.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { optionsOf } from '../plans/plans.ts';
import { taxOfRate, type Rate } from '../plans/Rate.ts';
import { settingsOf } from '../settings/settings.ts';
import { Subscription } from './Subscription.ts';

export interface Enrolment {
  readonly reference: string;
  readonly customer: Customer;
  readonly rate: Rate;
  readonly terms: Terms;
  readonly enrolledOn: string;
  readonly invoiceFields?: readonly InvoiceField[];
  /** What was chosen of the plan beside its terms, and how it is collected. */
  readonly facts?: Partial<
    Pick<Subscription, 'variantId' | 'rateCardId' | 'extras' | 'answers' | 'collects' | 'withoutMethod'>
  >;
}

/**
 * Writes down a new subscription. The next pass over its day looks at it, and finds when something happens. Which tax it
 * pays, and by whose working days it is due, is settled here: no later choice in Setup changes that.
 */
export async function enrol(
  almanac: Almanac,
  enrolment: Enrolment,
  within: Transaction,
): Promise<Subscription> {
  const { terms, customer, rate, reference, enrolledOn, invoiceFields = [], facts = {} } = enrolment;
  const { trialEnds, ends } = outlineOf(compileTerms(terms));
  const { shifts } = await settingsOf(almanac, 'calendar', within);
  const { country } = await settingsOf(almanac, 'business', within);
  const { defaultTax } = await settingsOf(almanac, 'taxing', within);
  const shift = shifts.card === 'none' ? null : shifts.card;
  return Subscription.create(
    {
      reference,
      customerId: customer.id,
      rateId: rate.id,
      rateVersion: rate.version,
      terms,
      enrolledOn,
      walk: null,
      state: 'scheduled',
      startsOn: terms.starts,
      trialEndsOn: trialEnds === null ? null : formatDay(trialEnds),
      endsOn: ends === null ? null : formatDay(ends),
      wakeOn: enrolledOn,
      taxId: taxOfRate(rate, defaultTax),
      worksBy: shift === null ? null : (customer.country ?? country),
      shift,
      invoiceFields: [...invoiceFields],
      invoicing: isOfFixedTerm(terms) ? optionsOf(rate).invoicing : 'each',
      ...facts,
    },
    { transaction: within },
  );
}

/** Whether terms end after a number of payments, so that one invoice can stand for all of them. */
function isOfFixedTerm(terms: Terms): boolean {
  return 'lines' in terms && terms.ends?.after !== undefined && (terms.changes ?? []).length === 0;
}
