import { CARDS_TO_FORGET, forgetCard } from '../../payments/chargeByStaff.ts';
import type { Step } from '../step.ts';
import { nobody } from './ofSubscription.ts';

/** Cards that were told for one payment, whose outcome came later, are forgotten. */
export const forgetToldCards: Step = {
  name: 'cards that are not kept',
  due: CARDS_TO_FORGET.due,
  bound: () => CARDS_TO_FORGET.bound,
  size: 50,
  subscriptionOf: nobody,
  one: (_day, id) => forgetCard(id),
};
