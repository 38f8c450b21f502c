import type { z } from 'zod';
import { money, onDate } from '../../core/letters/said.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { composeFor } from '../notices/composeFor.ts';
import { saidCard } from '../notices/occasions.ts';
import { isSwitchedOn } from '../notices/queueLetter.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import type { firstLetterSchema, FirstLetterView } from './firstLetterMessages.ts';

/** The first letter of an enrolment that is being typed, as it will be read: nothing is written, and nobody is written to. */
export async function previewFirstLetter(
  almanac: Almanac,
  wanted: z.output<typeof firstLetterSchema>,
): Promise<FirstLetterView> {
  const { customerId, pays, first, starts, firstWords } = wanted;
  const rate = await Rate.findByPk(wanted.rateId);
  if (!rate) throw new RefusedCommand(422, 'Choose a plan and a rate.', '/rateId');
  const plan = await Plan.findByPk(rate.planId, { rejectOnEmpty: true });
  const business = await Business.findOne({ rejectOnEmpty: true });
  const customer = customerId === undefined ? null : await Customer.findByPk(customerId);
  const kept = customer && (await methodInUse({ customerId: customer.id, ownMethodId: null }));
  const { subject, html } = await composeFor(
    almanac,
    'started',
    {
      business: business.name,
      customer: customer?.name ?? (wanted.name || 'Ada Fenn'),
      plan: plan.outerName || plan.name,
      date: onDate(starts),
      amount: first ? money(BigInt(first.due), first.currency) : '',
      next: first ? onDate(first.dueOn) : '',
      ...(pays === 'file' && kept ? { card: saidCard(kept) } : { charged: 'the card that is given now' }),
      how: !first ? 'free' : pays === 'invoice' ? 'by hand' : pays === 'asked' ? 'asked for' : 'automatic',
      words: firstWords,
    },
    { customerId, rateId: rate.id },
  );
  return { subject, html, isOn: await isSwitchedOn(almanac, 'started') };
}
