import type { MethodKind } from './methodMessages.ts';

/**
 * What a customer agrees to by giving a card or a bank account themselves: the very words that stand on their page, and are
 * kept with the mandate.
 * @param business its name, as its customers know it
 */
export const agreedText = (business: string, kind: MethodKind = 'card') =>
  kind === 'card'
    ? `I authorise ${business} to charge this card for what my subscriptions come to, on the dates that they name, until I withdraw this.`
    : `I authorise ${business} to collect from this bank account what my subscriptions come to, on the dates that they name, and my bank to pay that, until I withdraw this.`;
