import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import { outlineOf } from '../../core/listing/outline.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Almanac } from '../almanac.ts';
import type { Customer } from '../customers/Customer.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { noteAltered } from '../forecast/altered.ts';
import { optionsOf } from '../plans/plans.ts';
import { taxOfRate, type Rate } from '../plans/Rate.ts';
import { settingsOf } from '../settings/settings.ts';
import { insertSubscriptions } from './enrol.sql.ts';
import { Subscription } from './Subscription.ts';

export interface Enrolment {
  readonly reference: string;
  readonly customer: Pick<Customer, 'id' | 'country'>;
  readonly rate: Rate;
  readonly terms: Terms;
  readonly enrolledOn: string;
  readonly invoiceFields?: readonly InvoiceField[];
  /** What was chosen of the plan beside its terms, and how it is collected. */
  readonly facts?: Partial<
    Pick<Subscription, 'variantId' | 'rateCardId' | 'extras' | 'answers' | 'collects' | 'withoutMethod'>
  >;
}

/** Writes down a new subscription (see {@link enrolAll}). */
export async function enrol(
  almanac: Almanac,
  enrolment: Enrolment,
  within: Transaction,
): Promise<Subscription> {
  const [id = ''] = await enrolAll(almanac, [enrolment], within);
  return Subscription.findByPk(id, { transaction: within, rejectOnEmpty: true });
}

/**
 * Writes down new subscriptions, in one statement however many they are, and gives their ids. The next pass over their day
 * looks at them, and finds when something happens. Which tax they pay, and by whose working days they are due, is settled
 * here: no later choice in Setup changes that.
 */
export async function enrolAll(
  almanac: Almanac,
  enrolments: readonly Enrolment[],
  within: Transaction,
): Promise<string[]> {
  if (enrolments.length === 0) return [];
  const { shifts } = await settingsOf(almanac, 'calendar', within);
  const { country } = await settingsOf(almanac, 'business', within);
  const { defaultTax } = await settingsOf(almanac, 'taxing', within);
  const shift = shifts.card === 'none' ? null : shifts.card;
  const rows = enrolments.map(
    ({ terms, customer, rate, reference, enrolledOn, invoiceFields = [], facts = {} }) => {
      const { trialEnds, ends } = outlineOf(compileTerms(terms));
      return {
        ...{ reference, shift, customer_id: customer.id, rate_id: rate.id, rate_version: rate.version },
        terms: JSON.stringify(terms),
        starts_on: terms.starts,
        trial_ends_on: trialEnds === null ? null : formatDay(trialEnds),
        ends_on: ends === null ? null : formatDay(ends),
        wake_on: enrolledOn,
        enrolled_on: enrolledOn,
        tax_id: taxOfRate(rate, defaultTax),
        works_by: shift === null ? null : (customer.country ?? country),
        invoice_fields: JSON.stringify(invoiceFields),
        variant_id: facts.variantId ?? null,
        rate_card_id: facts.rateCardId ?? null,
        extras: JSON.stringify(facts.extras ?? []),
        answers: JSON.stringify(facts.answers ?? []),
        collects: facts.collects ?? 'automatic',
        invoicing: isOfFixedTerm(terms) ? optionsOf(rate).invoicing : 'each',
        without_method: facts.withoutMethod ?? null,
      };
    },
  );
  const ids = await insertSubscriptions(almanac, rows, within);
  noteAltered(within, ...ids);
  return ids;
}

/** Whether terms end after a number of payments, so that one invoice can stand for all of them. */
function isOfFixedTerm(terms: Terms): boolean {
  return 'lines' in terms && terms.ends?.after !== undefined && (terms.changes ?? []).length === 0;
}
