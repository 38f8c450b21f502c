import { WORDS as ENGLISH } from '../../core/words/ownPage/en.ts';
import type { OwnWords } from '../../core/words/ownPage/words.ts';

/** A bank account as it is being typed. */
export interface TypedBank {
  readonly iban: string;
  readonly holder: string;
  /** Its number is an IBAN whose check digits fit (ISO 13616). */
  readonly isGood: boolean;
}

export const NO_BANK: TypedBank = { iban: '', holder: '', isGood: false };

/** What is wrong with a typed bank account, field by field; nothing where both are good. */
export function faultsOfBank(
  { holder, isGood }: TypedBank,
  words: OwnWords['bank'] = ENGLISH.bank,
): { iban?: string; holder?: string } {
  return {
    ...(isGood ? {} : { iban: words.noIban }),
    ...(holder.trim() === '' ? { holder: words.noHolder } : {}),
  };
}
