import type { PageLanguage } from '../../core/words/signUp/languages.ts';
import { WORDS as english } from '../../core/words/signUp/en.ts';
import type { SignUpWords } from '../../core/words/signUp/words.ts';

/** The words of a language; all but English come when they are first wanted. */
export async function wordsIn(language: PageLanguage): Promise<SignUpWords> {
  switch (language) {
    case 'en':
      return english;
    case 'de':
      return (await import('../../core/words/signUp/de.ts')).WORDS;
    case 'fr':
      return (await import('../../core/words/signUp/fr.ts')).WORDS;
  }
}
