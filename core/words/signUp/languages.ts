/** Languages that sign-up pages are read in, by ISO 639-1. */
export const PAGE_LANGUAGES = { en: 'English', de: 'Deutsch', fr: 'Français' } as const;
export type PageLanguage = keyof typeof PAGE_LANGUAGES;

export const isPageLanguage = (code: string): code is PageLanguage => Object.hasOwn(PAGE_LANGUAGES, code);
