/**
 * What a customer agrees to by giving a card themselves: the very words that stand on their page, and are kept with the
 * mandate.
 * @param business its name, as its customers know it
 */
export const agreedText = (business: string) =>
  `I authorise ${business} to charge this card for what my subscriptions come to, on the dates that they name, until I withdraw this.`;
