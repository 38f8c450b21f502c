import { localeOf } from '../../core/typed/manner.ts';

/**
 * How a customer writes dates and figures: by their own language and country where the language is known, otherwise as the business
 * does. By calendars and figures of other scripts neither our fields nor our letters are read.
 * @example localeFor({ language: 'de', country: 'AT' }, { language: 'en', country: 'IE' }) // 'de-AT'
 */
export function localeFor(
  { language, country }: { readonly language: string; readonly country: string | null },
  of: { readonly language: string; readonly country: string },
): string {
  const usual = localeOf(of.language, of.country);
  if (!language) return usual;
  const theirs = localeOf(language, country ?? '');
  const { calendar, numberingSystem } = new Intl.DateTimeFormat(theirs).resolvedOptions();
  return calendar === 'gregory' && numberingSystem === 'latn' ? theirs : usual;
}
