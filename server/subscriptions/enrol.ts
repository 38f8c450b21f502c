import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import { outlineOf } from '../../core/listing/outline.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Foreseen } from '../../core/forecast/foresee.ts';
import type { Law } from '../../core/terms/law.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Almanac } from '../almanac.ts';
import type { Customer } from '../customers/Customer.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { noteAltered } from '../forecast/altered.ts';
import { foreseenOf } from '../forecast/foresee.ts';
import { foreseenValues, insertCharges } from '../forecast/foresight.sql.ts';
import { optionsOf } from '../plans/plans.ts';
import { taxOfRate, type Rate } from '../plans/Rate.ts';
import type { PaymentKind } from '../settings/messages.ts';
import { settingsOf } from '../settings/settings.ts';
import { shiftsOf } from './law.ts';
import { insertSubscriptions } from './enrol.sql.ts';
import type { Subscription } from './Subscription.ts';

export interface Enrolment {
  readonly reference: string;
  readonly customer: Pick<Customer, 'id' | 'country' | 'region' | 'taxExempt'>;
  readonly rate: Rate;
  /** The version of the rate that the terms were made of. */
  readonly rateVersion: number;
  readonly terms: Terms;
  /** By which of Setup's rules its due dates move to a day that is worked; absent: that of cards. */
  readonly paidAs?: PaymentKind;
  readonly enrolledOn: string;
  readonly invoiceFields?: readonly InvoiceField[];
  /** What was chosen of the plan beside its terms, and how it is collected. */
  readonly facts?: Partial<
    Pick<
      Subscription,
      | 'variantId'
      | 'rateCardId'
      | 'extras'
      | 'answers'
      | 'collects'
      | 'withoutMethod'
      | 'ownMethodId'
      | 'servedAt'
      | 'lineSources'
    >
  >;
}

/** What is needed to foresee those who begin at once, together with their enrolment. */
export interface ForeseenBy {
  readonly law: Law;
  readonly businessDate: string;
}

/** Nothing of it is known yet: it is foreseen as the last part of the transaction. */
const UNFORESEEN = { next_on: null, next_amount: null, monthly: null, foresee_on: '1970-01-01' };

/**
 * Writes down new subscriptions, in one statement however many they are, and gives their ids. The next pass over their day
 * looks at them, and finds when something happens. Which tax they pay, and by whose working days they are due, is settled
 * here: no later choice in Setup changes that.
 * @param by with it they are foreseen here, those alike once; without it that is noted, and done with whatever else the
 *   transaction alters
 */
export async function enrolAll(
  almanac: Almanac,
  enrolments: readonly Enrolment[],
  within: Transaction,
  by?: ForeseenBy,
): Promise<string[]> {
  if (enrolments.length === 0) return [];
  const shifts = await shiftsOf(almanac, within);
  const { country } = await settingsOf(almanac, 'business', within);
  const { defaultTax } = await settingsOf(almanac, 'taxing', within);
  const written = new Map<Terms, ReturnType<typeof ofTerms>>();
  const foresight = new Map<string, Foreseen>();
  const rows = enrolments.map((enrolment) => {
    const {
      terms,
      customer,
      rate,
      rateVersion,
      reference,
      enrolledOn,
      invoiceFields = [],
      facts = {},
    } = enrolment;
    const same = written.get(terms) ?? ofTerms(terms, written.size);
    written.set(terms, same);
    const { place: placeOfTerms, ...fixed } = same;
    const place = facts.servedAt ?? null;
    const tax_id = taxOfRate(rate, defaultTax);
    const shift = shifts[enrolment.paidAs ?? 'card'];
    const works_by = shift === null ? null : (place?.country ?? customer.country ?? country);
    const invoicing = isOfFixedTerm(terms) ? optionsOf(rate).invoicing : ('each' as const);
    const lawFacts = {
      ...{ terms, tax_id, works_by, shift, country: place?.country ?? customer.country },
      ...{ region: place ? place.region : customer.region, tax_exempt: customer.taxExempt },
      line_sources: facts.lineSources ?? null,
    };
    let foreseen: Foreseen | null = null;
    if (by) {
      const { country: lives, region, tax_exempt, line_sources } = lawFacts;
      const sources = line_sources && JSON.stringify(line_sources);
      const alike = [placeOfTerms, tax_id, shift, works_by, lives, region, tax_exempt, sources].join('|');
      foreseen =
        foresight.get(alike) ??
        foreseenOf(
          { state: 'scheduled', wakeOn: enrolledOn, walk: null, invoicing },
          by.law.compile(lawFacts),
          by.businessDate,
        );
      foresight.set(alike, foreseen);
    }
    const row = {
      issue_before: optionsOf(rate).issueDaysBefore,
      ...{ reference, shift, tax_id, works_by, invoicing, customer_id: customer.id, ...fixed },
      ...{ rate_id: rate.id, rate_version: rateVersion, starts_on: terms.starts },
      ...{ wake_on: enrolledOn, enrolled_on: enrolledOn },
      invoice_fields: listOf(invoiceFields),
      variant_id: facts.variantId ?? null,
      rate_card_id: facts.rateCardId ?? null,
      extras: listOf(facts.extras),
      answers: listOf(facts.answers),
      collects: facts.collects ?? 'automatic',
      without_method: facts.withoutMethod ?? null,
      own_method_id: facts.ownMethodId ?? null,
      served_at: place && JSON.stringify(place),
      line_sources: facts.lineSources ? JSON.stringify(facts.lineSources) : null,
      ...(foreseen ? foreseenValues(foreseen) : UNFORESEEN),
    };
    return { row, foreseen, currency: terms.currency };
  });
  const ids = await insertSubscriptions(
    almanac,
    rows.map(({ row }) => row),
    within,
  );
  if (!by) noteAltered(within, ...ids);
  else
    await insertCharges(
      almanac,
      rows.flatMap(({ foreseen, currency }, i) =>
        foreseen ? [{ id: ids[i] ?? '', currency, foreseen }] : [],
      ),
      within,
    );
  return ids;
}

const listOf = (values: readonly object[] = []) => (values.length === 0 ? '[]' : JSON.stringify(values));

/** What is written of terms, once for all who have the very same. */
function ofTerms(terms: Terms, place: number) {
  const { trialEnds, ends } = outlineOf(compileTerms(terms));
  return {
    place,
    terms: JSON.stringify(terms),
    trial_ends_on: trialEnds === null ? null : formatDay(trialEnds),
    ends_on: ends === null ? null : formatDay(ends),
  };
}

/** Whether terms end after a number of payments, so that one invoice can stand for all of them. */
function isOfFixedTerm(terms: Terms): boolean {
  return 'lines' in terms && terms.ends?.after !== undefined && (terms.changes ?? []).length === 0;
}
