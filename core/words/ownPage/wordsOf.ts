import type { PageLanguage } from '../signUp/languages.ts';
import { WORDS as de } from './de.ts';
import { WORDS as en } from './en.ts';
import { WORDS as fr } from './fr.ts';
import type { OwnWords } from './words.ts';

const WORDS: Readonly<Record<PageLanguage, OwnWords>> = { en, de, fr };

/** What customers read on their own page in a language. */
export const ownWords = (language: PageLanguage): OwnWords => WORDS[language];
