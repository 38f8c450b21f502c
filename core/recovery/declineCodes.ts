/**
 * What a decline means and what may be done about it. Source of the codes: ISO 8583-1, response codes, for cards; ISO 20022,
 * external status reasons, for bank debits; the sorting into classes is our own (engine, declines).
 */

/** wait: the same card may work later; soon: again within hours; ask: the customer must mend it; never: do not charge it again. */
export type DeclineClass = 'wait' | 'soon' | 'ask' | 'never';

/** Every class, those that time alone may mend first. */
export const DECLINE_CLASSES: readonly DeclineClass[] = ['wait', 'soon', 'ask', 'never'];

export interface DeclineMeaning {
  readonly class: DeclineClass;
  /** What happened, in plain words, to follow "Declined: ". */
  readonly says: string;
}

const MEANINGS: Readonly<Record<string, DeclineMeaning>> = {
  '01': { class: 'ask', says: 'the bank wants to speak to the customer' },
  '04': { class: 'never', says: 'the bank has withdrawn the card' },
  '05': { class: 'wait', says: 'the bank refused without giving a reason' },
  '12': { class: 'ask', says: 'the card does not allow this kind of payment' },
  '14': { class: 'ask', says: 'the card number is not valid' },
  '41': { class: 'never', says: 'the card was reported lost' },
  '43': { class: 'never', says: 'the card was reported stolen' },
  '51': { class: 'wait', says: 'not enough money in the account' },
  '54': { class: 'ask', says: 'the card has expired' },
  '57': { class: 'ask', says: 'the card does not allow this kind of payment' },
  '61': { class: 'wait', says: 'over the limit of the card' },
  '62': { class: 'ask', says: 'the card is restricted' },
  '65': { class: 'wait', says: 'the card was used too often today' },
  '70': { class: 'ask', says: 'the cardholder must confirm the payment' },
  '91': { class: 'soon', says: 'the bank could not be reached' },
  '96': { class: 'soon', says: 'a fault in the card network' },
  AC01: { class: 'ask', says: 'the number of the bank account is not right' },
  AC04: { class: 'never', says: 'the bank account is closed' },
  AC06: { class: 'ask', says: 'the bank account is blocked' },
  AG01: { class: 'ask', says: 'the bank account does not allow debits' },
  AM04: { class: 'wait', says: 'not enough money in the account' },
  MD01: { class: 'never', says: 'the bank knows of no mandate, or it was withdrawn there' },
  MD07: { class: 'never', says: 'the holder of the account has died' },
  MS02: { class: 'ask', says: 'the customer refused the debit at the bank' },
  MS03: { class: 'wait', says: 'the bank refused without giving a reason' },
};

/** Every code whose meaning is known. */
export const DECLINE_CODES: readonly string[] = Object.keys(MEANINGS);

/** The meaning of an ISO 8583 response code or an ISO 20022 reason; one that is not in the table is waited on, like a bare refusal. */
export function meaningOf(code: string): DeclineMeaning {
  return MEANINGS[code] ?? { class: 'wait', says: `the bank refused (code ${code})` };
}

/** What the case came to be without any attempt: there was no method to charge. */
export const NO_METHOD: DeclineMeaning = { class: 'ask', says: 'there is no card to charge' };
