import { formatDay, toDay } from '../../core/dates/day.ts';
import { RefusedCommand } from '../http/problem.ts';
import { choiceSchema } from '../subscriptions/messages.ts';
import type { Choice } from '../reckonings/choose.ts';
import type { PageChoice, SignUpPageValue } from './messages.ts';

/**
 * What somebody chose on a page, as a choice of any enrolment; what the page does not leave to them is refused, beside its
 * field.
 * @param today the business day: whoever names no day starts on it
 */
export function chosenHere(page: SignUpPageValue, choice: PageChoice, today: string): Choice {
  const { rateId, quantity, amount, variantId, extras, answers, codes, starts, billingDay } = choice;
  const refuse = (says: string, pointer: string): never => {
    throw new RefusedCommand(422, says, pointer);
  };
  if (!page.rates.includes(rateId)) refuse('This is not offered here any more. Choose another.', '/rateId');
  const most = page.quantityMost ?? 1;
  if (quantity !== undefined && quantity > most)
    refuse(most === 1 ? 'One is taken here.' : `At most ${most.toLocaleString('en')}.`, '/quantity');
  if (codes.length > 0 && !page.codes) refuse('No codes are taken here.', '/codes/0');
  if (billingDay !== undefined && !page.billingDay)
    refuse('The day of payment is not chosen here.', '/billingDay');
  const last = formatDay(toDay(today) + (page.startWithin ?? 0));
  if (starts !== undefined && (starts < today || starts > last))
    refuse(
      page.startWithin === null ? 'It starts at once.' : `Start on ${today} or later, ${last} at the latest.`,
      '/starts',
    );
  return choiceSchema.parse({
    ...{ rateId, variantId, amount, extras, answers, codes, starts: starts ?? today },
    ...(quantity === undefined ? {} : { quantity }),
    own: billingDay === undefined ? {} : { billingDay },
  });
}
