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
}

/**
 * Begins subscriptions of reckonings that were agreed to: the one way in, for staff, programs, customers and imports alike.
 * The subscriptions, what was agreed, and the codes that were used for them are written down together, in a fixed number of
 * statements where there are no codes.
 * @param by with it they are foreseen here (see `enrolAll`)
 * @returns the ids of the subscriptions, in the order given
 */
export async function accept(
  almanac: Almanac,
  accepted: readonly Accepted[],
  agreement: Agreement,
  within: Transaction,
  by?: ForeseenBy,
): Promise<string[]> {
  const ids = await enrolAll(almanac, accepted.map(enrolmentOf(agreement.on)), within, by);
  await insertAgreements(
    almanac,
    accepted.map(({ reckoning, reckoningId = null, firstWords = '', asksTerms = false }, i) => ({
      asksTerms,
      ...{ subscriptionId: ids[i] ?? '', reckoningId },
      noTaxBecause: reckoning.noTaxBecause ?? '',
      ...{ firstWords: firstWords ?? '', firstLetter: firstWords !== null },
    })),
    agreement,
    within,
  );
  for (const [i, { reckoning, customer }] of accepted.entries())
    for (const [c, { discountId, codeId }] of (reckoning.codes ?? []).entries()) {
      const of = { customerId: customer.id, subscriptionId: ids[i] ?? '', on: agreement.on };
      await useCode(almanac, { discountId, codeId, ...of }, `/codes/${c}`, within);
    }
  return ids;
}

const enrolmentOf =
  (enrolledOn: string) =>
  ({ reckoning, customer, reference, paying, paidAs = 'card', invoiceFields = [] }: Accepted): Enrolment => {
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
  };
