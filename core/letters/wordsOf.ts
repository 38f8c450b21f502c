import type { PageLanguage } from '../words/signUp/languages.ts';
import { WORDS as de } from './de.ts';
import { WORDS as en } from './en.ts';
import { WORDS as fr } from './fr.ts';
import type { LetterWords } from './words.ts';

const WORDS: Readonly<Record<PageLanguage, LetterWords>> = { en, de, fr };

/** What letters of a language say. */
export const letterWords = (language: PageLanguage): LetterWords => WORDS[language];
