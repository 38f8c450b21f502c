/** A bank account as it is being typed. */
export interface TypedBank {
  readonly iban: string;
  readonly holder: string;
  /** Its number is an IBAN whose check digits fit (ISO 13616). */
  readonly isGood: boolean;
}

export const NO_BANK: TypedBank = { iban: '', holder: '', isGood: false };

/** What is wrong with a typed bank account, field by field; nothing where both are good. */
export function faultsOfBank({ holder, isGood }: TypedBank): { iban?: string; holder?: string } {
  return {
    ...(isGood ? {} : { iban: 'Give the IBAN, such as GB44 TARN 0001 0100 0000 01.' }),
    ...(holder.trim() === '' ? { holder: 'Give the name of whoever holds the account.' } : {}),
  };
}
