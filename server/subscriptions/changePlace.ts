import { sayCountry } from '../../core/words/countries.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { Customer } from '../customers/Customer.ts';
import { sayPlace, type Place } from '../customers/placeMessages.ts';
import { requirePlace, shipsTo } from '../customers/places.ts';
import { noteAltered } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { settingsOf } from '../settings/settings.ts';
import { lockedSubscription } from './lock.ts';
import { Subscription } from './Subscription.ts';

/**
 * Changes where a subscription is served or shipped to; null: where its customer is billed. Invoices from now on carry it, and
 * their taxes are those of the place; what is issued stays as it is.
 */
export function changePlace(almanac: Almanac, id: string, given: Place | null): Promise<void> {
  return almanac.db.transaction(async (within) => {
    if (!(await Subscription.findByPk(id, { transaction: within })))
      throw new RefusedCommand(404, 'There is no such subscription.');
    const subscription = await lockedSubscription(id, within);
    const asked = { transaction: within, rejectOnEmpty: true } as const;
    const customer = await Customer.findByPk(subscription.customerId, asked);
    const { planId } = await Rate.findByPk(subscription.rateId, asked);
    const usual = shipsTo({ ...customer.get(), shipping: customer.shipping ?? null });
    const { kind } = await Plan.findByPk(planId, asked);
    const place = requirePlace(
      kind === 'goods',
      { given: given ?? undefined, usual },
      await settingsOf(almanac, 'customers', within),
    );
    const before = subscription.servedAt && sayPlace(subscription.servedAt, sayCountry);
    const after = place && sayPlace(place, sayCountry);
    // Due dates that move to a day that is worked go by the calendar of the place.
    const { country: home } = await settingsOf(almanac, 'business', within);
    const worksBy = subscription.worksBy === null ? null : (place?.country ?? customer.country ?? home);
    await subscription.update({ servedAt: place, worksBy }, { transaction: within });
    noteAltered(within, id);
    await recordDone(
      almanac,
      {
        did: 'changed where a subscription is served',
        subject: customer.name,
        before: { place: before },
        after: { place: after },
      },
      within,
    );
  });
}
