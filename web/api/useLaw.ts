import { useMemo } from 'react';
import { Law, type LawFacts } from '../../core/terms/law.ts';
import type { CompiledTerms } from '../../core/terms/compile.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { EnrolmentForm } from '../../server/subscriptions/messages.ts';
import { useAnswer } from './hooks.ts';

type Customer = Partial<Pick<LawFacts, 'country' | 'region' | 'tax_exempt'>>;

/**
 * Reads terms as the server will: by the taxes and working days in force, for a customer of whom so much is known.
 * @param taxId the tax that the subscription would pay by law; undefined takes the default
 */
export function useLaw(
  taxId: string | null | undefined,
  customer: Customer = {},
): (terms: Terms) => CompiledTerms {
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const { country = null, region = '', tax_exempt = '' } = customer;
  return useMemo(() => {
    const law = new Law(form?.law ?? { rates: [], weekends: [], holidays: [], homeCountry: '' });
    const home = form?.law.homeCountry ?? '';
    const shift = form?.shift ?? null;
    return (terms) =>
      law.compile({
        terms,
        tax_id: taxId === undefined ? (form?.defaultTax ?? null) : taxId,
        works_by: shift === null ? null : (country ?? home),
        shift,
        country,
        region,
        tax_exempt,
      });
  }, [form, taxId, country, region, tax_exempt]);
}
