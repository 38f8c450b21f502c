import type { z } from 'zod';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { compose } from '../notices/compose.ts';
import { lookOf } from '../notices/look.ts';
import { sayCard } from '../notices/occasions.ts';
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
  const { subject, html } = compose(
    'started',
    {
      business: business.name,
      customer: customer?.name ?? (wanted.name || 'Ada Fenn'),
      plan: plan.outerName || plan.name,
      date: sayDate(starts),
      amount: first ? sayAmount(BigInt(first.due), first.currency) : '',
      next: first ? sayDate(first.dueOn) : '',
      card: pays === 'file' && kept ? sayCard(kept) : 'the one that is given now',
      reason: pays === 'invoice' ? 'by hand' : pays === 'asked' ? 'asked for' : 'automatic',
      words: firstWords,
    },
    await lookOf(almanac),
  );
  return { subject, html, isOn: await isSwitchedOn(almanac, 'started') };
}
