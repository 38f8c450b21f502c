import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Customer } from '../customers/Customer.ts';
import { useCode } from '../discounts/discounts.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import type { PaymentKind } from '../settings/messages.ts';
import { enrolAll, type Enrolment, type ForeseenBy } from '../subscriptions/enrol.ts';
import { insertAgreements, type Agreement } from './agreements.sql.ts';
import type { Reckoning } from './reckon.ts';

/** A reckoning that somebody has agreed to. */
export interface Accepted {
  readonly reckoning: Pick<Reckoning, 'rate' | 'terms'> &
    Partial<
      Pick<
        Reckoning,
        | 'rateVersion'
        | 'variantId'
        | 'rateCardId'
        | 'extras'
        | 'answers'
        | 'codes'
        | 'noTaxBecause'
        | 'note'
        | 'place'
        | 'sources'
      >
    >;
  /** The one that it was kept under; null where it is accepted as it is made. */
  readonly reckoningId?: string | null;
  readonly customer: Pick<Customer, 'id' | 'country' | 'region' | 'taxExempt'>;
  readonly reference: string;
  /** How it is paid. */
  readonly paying: Pick<NonNullable<Enrolment['facts']>, 'collects' | 'withoutMethod' | 'ownMethodId'>;
  readonly paidAs?: PaymentKind;
  readonly invoiceFields?: readonly InvoiceField[];
  /** What is said in the first letter beside what it says by itself; null: there is none. */
  readonly firstWords?: string | null;
  /** The customer is asked to agree to the terms of service on their own page, before they pay there. */
  readonly asksTerms?: boolean;
  /** How this one was agreed to, where not all were agreed to alike. */
  readonly agreement?: Agreement;
}

/**
 * Begins subscriptions of reckonings that were agreed to: the one way in, for staff, programs, customers and imports alike.
 * The subscriptions, what was agreed, and the codes that were used for them are written down together, in a fixed number of
 * statements where there are no codes.
 * @param common how they were agreed to, but for those that say so themselves
 * @param by with it they are foreseen here (see `enrolAll`)
 * @returns the ids of the subscriptions, in the order given
 */
export async function accept(
  almanac: Almanac,
  accepted: readonly Accepted[],
  common: Agreement | null,
  within: Transaction,
  by?: ForeseenBy,
): Promise<string[]> {
  const agreements = accepted.map(({ agreement }) => {
    const agreed = agreement ?? common;
    if (!agreed) throw new Error('It does not say how it was agreed to.');
    return agreed;
  });
  const enrolments = accepted.map((one, i) => enrolmentOf(one, agreements[i]?.on ?? ''));
  const ids = await enrolAll(almanac, enrolments, within, by);
  await insertAgreements(
    almanac,
    accepted.map(({ reckoning, reckoningId = null, firstWords = '', asksTerms = false }, i) => ({
      ...{ asksTerms, agreement: agreements[i] ?? common },
      ...{ subscriptionId: ids[i] ?? '', reckoningId },
      noTaxBecause: reckoning.noTaxBecause ?? '',
      ...{ firstWords: firstWords ?? '', firstLetter: firstWords !== null },
    })),
    within,
  );
  for (const [i, { reckoning, customer }] of accepted.entries())
    for (const [c, { discountId, codeId }] of (reckoning.codes ?? []).entries()) {
      const of = { customerId: customer.id, subscriptionId: ids[i] ?? '', on: agreements[i]?.on ?? '' };
      await useCode(almanac, { discountId, codeId, ...of }, `/codes/${c}`, within);
    }
  return ids;
}

function enrolmentOf(
  { reckoning, customer, reference, paying, paidAs = 'card', invoiceFields = [] }: Accepted,
  enrolledOn: string,
): Enrolment {
  const { rate, rateVersion, terms, variantId, rateCardId, extras, answers, noTaxBecause, note, place } =
    reckoning;
  const { sources = [] } = reckoning;
  return {
    ...{ reference, customer, rate, terms, paidAs, enrolledOn, rateVersion: rateVersion ?? rate.version },
    invoiceFields: [
      ...invoiceFields,
      ...(noTaxBecause ? [{ label: 'No tax', value: noTaxBecause }] : []),
      ...(note ? [{ label: 'Note', value: note }] : []),
    ],
    facts: {
      ...{ variantId: variantId ?? null, rateCardId: rateCardId ?? null },
      ...{ extras: [...(extras ?? [])], answers: [...(answers ?? [])] },
      ...paying,
      servedAt: place ?? null,
      lineSources: sources.length === 0 ? null : [...sources],
    },
  };
}
