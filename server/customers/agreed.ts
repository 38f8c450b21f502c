import type { PageLanguage } from '../../core/words/signUp/languages.ts';
import { signUpWords } from '../../core/words/signUp/wordsOf.ts';
import type { MethodKind } from './methodMessages.ts';

/**
 * What a customer agrees to by giving a card or a bank account themselves: the very words that stand on their page, and are
 * kept with the mandate.
 * @param business its name, as its customers know it
 */
export function agreedText(
  business: string,
  kind: MethodKind = 'card',
  language: PageLanguage = 'en',
): string {
  const { agreedCard, agreedBank } = signUpWords(language);
  return kind === 'card' ? agreedCard(business) : agreedBank(business);
}
