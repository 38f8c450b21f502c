import { periodsRested } from '../../core/alter/periodsRested.ts';
import type { Day } from '../../core/dates/day.ts';
import type { ExtraLine } from '../../core/offer/extras.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { MayDo } from '../plans/choiceMessages.ts';
import type { Plan } from '../plans/Plan.ts';
import { mayDoOf } from '../plans/plans.ts';
import type { AlterationMessage } from './alterMessages.ts';
import type { Subscription } from './Subscription.ts';
import { paysInstalments } from './subscriptions.ts';

const NOTHING: MayDo = {
  cancel: 'never',
  cancelAfter: null,
  pause: false,
  pauseMost: 1,
  skip: false,
  quantity: false,
  quantityMost: 1,
  variant: false,
  code: false,
  instalmentsToo: false,
};

/** What the customer of a subscription may do alone: nothing to instalments, unless the plan lets them rest. */
export function allowedTo(
  plan: Plan,
  { terms, invoicing }: Pick<Subscription, 'terms' | 'invoicing'>,
): MayDo {
  const may = mayDoOf(plan);
  const instalments = paysInstalments(terms);
  if (!('lines' in terms) || invoicing === 'whole' || (instalments && !may.instalmentsToo)) return NOTHING;
  return instalments ? { ...NOTHING, pause: may.pause, pauseMost: may.pauseMost, skip: may.skip } : may;
}

/** The extra lines whose number the customer may change. */
export function extrasOfCustomer(subscription: Pick<Subscription, 'extras'>): ExtraLine[] {
  return subscription.extras.flatMap(({ extra }) =>
    extra.byCustomer && extra.when === 'recurring' ? [extra] : [],
  );
}

/** The extra lines paid once that the customer may take alone. */
export function onceOfCustomer(
  plan: Plan,
  subscription: Pick<Subscription, 'terms' | 'invoicing'>,
): ExtraLine[] {
  return subscription.invoicing === 'whole'
    ? []
    : plan.extras.filter(
        ({ when, byCustomer, currency }) =>
          when === 'once' && byCustomer && currency === subscription.terms.currency,
      );
}

/** Rests are counted over so many days before the one that is asked for. */
const YEAR_DAYS = 365;

/**
 * Refuses what the plan does not leave to its customers.
 * @param next the boundary at which a rest would begin, or null where none comes
 */
export function requireAllowed(
  plan: Plan,
  subscription: Subscription,
  asked: AlterationMessage,
  next: Day | null,
): void {
  const may = allowedTo(plan, subscription);
  const refuse = (says = 'This cannot be done here. Write to us and we look at it.') => {
    throw new RefusedCommand(403, says);
  };
  switch (asked.kind) {
    case 'cancel':
      if (may.cancel !== asked.when) refuse();
      if (asked.when === 'after payments' && asked.payments !== (may.cancelAfter ?? 1)) refuse();
      return;
    case 'go on':
      if (may.cancel === 'never' || subscription.cancelledBy !== 'customer') refuse();
      return;
    case 'pause':
      if (!(may.pause && asked.periods <= may.pauseMost) && !(may.skip && asked.periods === 1)) refuse();
      if (next !== null && 'lines' in subscription.terms) {
        const rested = periodsRested(subscription.terms, next - YEAR_DAYS, next);
        if (rested + asked.periods > may.pauseMost)
          refuse(
            `It may rest ${may.pauseMost === 1 ? 'once' : `${may.pauseMost} times`} in a year, and ${rested === 0 ? 'this is more' : `${rested} of these are taken`}. Write to us and we look at it.`,
          );
      }
      return;
    case 'quantity':
      if (!may.quantity) refuse();
      if (asked.quantity > may.quantityMost)
        throw new RefusedCommand(422, `At most ${may.quantityMost}.`, '/quantity');
      return;
    case 'extra':
      if (!extrasOfCustomer(subscription).some(({ key }) => key === asked.key)) refuse();
      return;
    case 'once':
      if (!onceOfCustomer(plan, subscription).some(({ key }) => key === asked.key)) refuse();
      return;
    case 'variant':
      if (!may.variant) refuse();
      return;
    case 'code':
      if (!may.code) refuse();
      return;
    case 'amount':
    case 'rate card':
    case 'date':
    case 'pause until':
      refuse();
  }
}
