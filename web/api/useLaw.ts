import { useMemo } from 'react';
import { toDay } from '../../core/dates/day.ts';
import type { TaxSaid } from '../../core/words/sayTax.ts';
import { Law, type LawData, type LawFacts, type LineSource } from '../../core/terms/law.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { PaymentKind } from '../../server/settings/messages.ts';
import type { EnrolmentForm } from '../../server/subscriptions/messages.ts';
import { useAnswer } from './hooks.ts';

const NO_LAW: LawData = { rates: [], weekends: [], holidays: [], homeCountry: '', said: 'net' };

type Customer = Partial<Pick<LawFacts, 'country' | 'region' | 'tax_exempt'>>;

/**
 * Reads terms as the server will: by the taxes and working days in force, for a customer of whom so much is known.
 * @param taxId the tax that the subscription would pay by law; undefined takes the default
 * @param paidAs how it is paid: due dates may move to a day that is worked accordingly
 */
export function useLaw(
  taxId: string | null | undefined,
  customer: Customer = {},
  paidAs: PaymentKind = 'card',
): (terms: Terms, sources?: readonly LineSource[]) => CompiledTerms {
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const { country = null, region = '', tax_exempt = '' } = customer;
  return useMemo(() => {
    const law = new Law(form?.law ?? NO_LAW);
    const home = form?.law.homeCountry ?? '';
    const shift = form?.shifts[paidAs] ?? null;
    return (terms, sources) =>
      law.compile({
        terms,
        tax_id: taxId === undefined ? (form?.defaultTax ?? null) : taxId,
        works_by: shift === null ? null : (country ?? home),
        shift,
        country,
        region,
        tax_exempt,
        line_sources: sources ?? null,
      });
  }, [form, taxId, country, region, tax_exempt, paidAs]);
}

/**
 * The tax on a price, as it is said beside it, for a customer of whom so much is known.
 * @param taxId as for {@link useLaw}
 * @param own the tax that the terms fix themselves
 * @param on the day whose rate is said, `YYYY-MM-DD`
 */
export function useTaxSaid(
  taxId: string | null | undefined,
  own: Terms['tax'],
  on: string,
  customer: Customer = {},
): TaxSaid {
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const { country = null, region = '', tax_exempt = '' } = customer;
  const terms = { tax: own } as Terms;
  const tax_id = taxId === undefined ? (form?.defaultTax ?? null) : taxId;
  return new Law(form?.law ?? NO_LAW).taxSaid({ terms, tax_id, country, region, tax_exempt }, toDay(on));
}
