import { randomUUID } from 'node:crypto';
import type { z } from 'zod';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { paymentsOf } from '../../core/listing/listPayments.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { requireTerms } from '../../core/terms/check.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import { plannedThread } from '../../core/thread/thread.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { findCard } from '../customers/findMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { RefusedCommand } from '../http/problem.ts';
import { composeFor } from '../notices/composeFor.ts';
import { isSwitchedOn } from '../notices/queueLetter.ts';
import { saidCard, sayCard } from '../notices/occasions.ts';
import type { LetterEvent, LetterSays } from '../notices/templates.ts';
import { Plan } from '../plans/Plan.ts';
import { optionsOf } from '../plans/plans.ts';
import { Rate, taxOfRate } from '../plans/Rate.ts';
import { money, onDate } from '../../core/letters/said.ts';
import { composeTerms } from '../../core/offer/composeTerms.ts';
import { faultsOfTerms } from '../plans/rateTerms.ts';
import { settingsOf } from '../settings/settings.ts';
import { loadLaw } from '../subscriptions/law.ts';
import type { Rehearsed, rehearsalSchema } from './messages.ts';

const CHARGES = 6;

/**
 * Plays an enrolment through as a customer would have it, with a practice card at the gateway: what is charged,
 * how the card answers, which letters go out. It is in no book, number or statistic: nothing is stored here, and
 * the gateway keeps nothing of its charge.
 */
export async function rehearse(
  almanac: Almanac,
  wanted: z.output<typeof rehearsalSchema>,
): Promise<Rehearsed> {
  const today = await businessDateOf(almanac);
  const rate = await Rate.findByPk(wanted.rateId);
  if (!rate) throw new RefusedCommand(422, 'Choose a plan and a rate.', '/rateId');
  const plan = await Plan.findByPk(rate.planId, { rejectOnEmpty: true });
  const chosen = composeTerms(rate.terms, {
    starts: today,
    quantity: wanted.quantity,
    recurringStart: optionsOf(rate).recurringStart,
  });
  const faults = faultsOfTerms(chosen);
  if (faults.length > 0) throw new RefusedTerms(faults);
  const terms = requireTerms(chosen);
  const card = await findCard(almanac, wanted.cardToken, '/cardToken', {
    rateId: rate.id,
    channel: 'customer',
  });

  const law = await loadLaw(almanac);
  const nobody = { country: null, region: '', tax_exempt: '', works_by: null, shift: null } as const;
  const compiled = law.compile({
    terms,
    tax_id: taxOfRate(rate, (await settingsOf(almanac, 'taxing')).defaultTax),
    ...nobody,
  });
  const payments = [...paymentsOf(compiled, { count: CHARGES })];
  const first = payments.find(({ due }) => due > 0n);

  const steps = [{ good: true, says: `The gateway took the card: ${sayCard(card)}.` }];
  const business = await Business.findOne({ rejectOnEmpty: true });
  const fields = { business: business.name, customer: wanted.name, plan: plan.name, card: saidCard(card) };
  const letters: Rehearsed['letters'][number][] = [];
  const write = async (event: LetterEvent, says: Partial<LetterSays>) => {
    const { subject, html } = await composeFor(almanac, event, { ...fields, ...says }, { rateId: rate.id });
    letters.push({ subject, html, sent: await isSwitchedOn(almanac, event) });
  };
  if (first) {
    const amount = sayAmount(first.due, terms.currency);
    const sum = money(first.due, terms.currency);
    await write('started', {
      ...{ date: onDate(today), amount: sum, next: onDate(formatDay(first.dueOn)), how: 'automatic' },
    });
    const account = await GatewayAccount.findByPk(card.accountId, { rejectOnEmpty: true });
    const outcome = await almanac.gateways.of(account).charge({
      idempotencyKey: `rehearsal:${randomUUID()}`,
      token: wanted.cardToken,
      amount: first.due,
      currency: terms.currency,
      statementText: business.statementText,
      reference: 'rehearsal',
      channel: 'customer',
      businessDate: formatDay(first.dueOn),
      rehearsal: true,
    });
    const when = first.dueOn <= toDay(today) ? 'now' : `on ${sayDate(formatDay(first.dueOn))}`;
    if (outcome.kind === 'settled' && outcome.charge.state === 'collected') {
      steps.push({ good: true, says: `${amount} is collected ${when}.` });
      await write('receipt', {
        ...{ amount: sum, how: 'automatic' },
        date: onDate(formatDay(first.dueOn)),
        invoice: 'of the rehearsal',
        period: 'the first period',
        reason: business.statementText,
      });
    } else if (outcome.kind === 'settled') {
      const { says } = meaningOf(outcome.charge.code);
      steps.push({
        good: false,
        says: `${amount} is tried ${when} and declined: ${says}. A recovery case opens.`,
      });
      await write('payment declined', {
        amount: sum,
        reason: { declined: outcome.charge.code },
        next: 'We try the card again, as the ladder says.',
      });
    } else if (outcome.kind === 'refused') {
      steps.push({ good: false, says: `The gateway would not take the charge: ${outcome.says}` });
    } else {
      steps.push({
        good: false,
        says: 'The gateway gave no answer. In earnest it is asked again until it does, and never charged twice.',
      });
    }
  } else steps.push({ good: true, says: 'Nothing is ever charged for this.' });

  const until = formatDay(Math.max(toDay(today), payments.at(-1)?.dueOn ?? 0));
  return {
    steps,
    currency: terms.currency,
    charges: payments.map(({ dueOn, kind, due }) => ({ date: formatDay(dueOn), kind, due: due.toString() })),
    thread: plannedThread(terms, until, undefined, compiled),
    letters,
  };
}
