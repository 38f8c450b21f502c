/** Languages that somebody may read, by their codes of ISO 639-1. */
const CODES =
  'ar bg bn ca cs cy da de el en es et eu fa fi fr ga gd gl he hi hr hu id is it ja ko lt lv mk ms mt nb nl nn pl pt ro ru sk sl sq sr sv ta th tr uk ur vi zh'.split(
    ' ',
  );
const known = new Set(CODES);
const names = new Intl.DisplayNames(['en'], { type: 'language' });

/** Whether this is the code of a language that can be chosen. */
export const isLanguage = (code: string): boolean => known.has(code);

/** The English name of a language, or its code where it has none. */
export const sayLanguage = (code: string): string => (known.has(code) ? (names.of(code) ?? code) : code);

/** All languages by name. */
export const languages = (): readonly { readonly code: string; readonly name: string }[] =>
  CODES.map((code) => ({ code, name: sayLanguage(code) })).sort((a, b) => a.name.localeCompare(b.name));
