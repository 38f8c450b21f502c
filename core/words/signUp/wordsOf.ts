import { WORDS as de } from './de.ts';
import { WORDS as en } from './en.ts';
import { WORDS as fr } from './fr.ts';
import type { PageLanguage } from './languages.ts';
import type { SignUpWords } from './words.ts';

const ALL: Readonly<Record<PageLanguage, SignUpWords>> = { en, de, fr };

/** What a sign-up page says in a language. Browsers load the one that they need. */
export const signUpWords = (language: PageLanguage): SignUpWords => ALL[language];
