import { variantsAt } from '../../core/offer/variant.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { readPlan } from '../plans/plans.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { allowedTo, extrasOfCustomer, onceOfCustomer } from '../subscriptions/mayAlter.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { quantityOf } from '../subscriptions/subscriptions.ts';
import type { OwnChoices, OwnPage } from './ownMessages.ts';

/** What a customer sees of the plan of a subscription, and what they may change of it. */
export async function choicesOf(
  almanac: Almanac,
  subscriptionId: string,
): Promise<{ about: OwnPage['about']; mine: OwnChoices }> {
  const subscription = await Subscription.findByPk(subscriptionId, { rejectOnEmpty: true });
  const rate = await Rate.findByPk(subscription.rateId, { rejectOnEmpty: true });
  const plan = await Plan.findByPk(rate.planId, { rejectOnEmpty: true });
  const view = await readPlan(almanac, plan.id);
  const { terms, state, variantId, extras } = subscription;
  const today = await businessDateOf(almanac);
  const changeable = extrasOfCustomer(subscription);
  return {
    about: {
      description: view.description,
      picture: view.pictureAt,
      documents: view.documents.flatMap(({ name }, i) => {
        const at = view.documentsAt[i];
        return at ? [{ name, at }] : [];
      }),
    },
    mine: {
      may: allowedTo(plan, subscription),
      over: state === 'ended' || state === 'lapsed',
      cancelledTo: subscription.cancelledBy === null ? null : (subscription.endsOn ?? null),
      cancelledBy: subscription.cancelledBy ?? null,
      quantity: quantityOf({ terms }, today),
      variantId: variantId ?? null,
      variants: variantsAt(view.variants, subscription.rateId)
        .filter(({ archivedOn }) => archivedOn === null)
        .map(({ id, name, says }) => ({ id, name, says })),
      once: onceOfCustomer(plan, subscription).map(({ key, name, min, max }) => ({ key, name, min, max })),
      extras: changeable.map(({ key, name, min, max, how }) => ({
        ...{ key, name, min, max, required: how === 'required' },
        quantity: extras.find(({ extra }) => extra.key === key)?.quantity ?? 0,
      })),
    },
  };
}
