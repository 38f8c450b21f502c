import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { mayRetry, rungDay } from '../../core/recovery/ladder.ts';
import type { Almanac } from '../almanac.ts';
import { collectInvoice } from '../payments/collect.ts';
import type { Collected } from '../payments/outcome.ts';
import { lockedCustomer, lockedSubscription } from '../subscriptions/lock.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import type { Climbing } from './climbing.ts';
import { takeFinalAction } from './finalAction.ts';
import { isHeld } from './held.ts';
import { Ladder } from './Ladder.ts';
import { RecoveryCase } from './RecoveryCase.ts';
import { unpaidInvoices } from './unpaid.ts';
import { writeRung, wroteToday } from './write.ts';

/** What a case is to do on a day. */
type Step =
  | { readonly kind: 'early retry'; readonly retryOn: string }
  | { readonly kind: 'rung'; readonly rung: number; readonly retries: boolean }
  | { readonly kind: 'final action' };

/**
 * Does for one open case what its ladder says for a business day: an early retry, the next rung, or the final
 * action. Each step is named by case and rung, and is looked at again under the lock before it is written down: one
 * cut short is finished, and none is done twice, whoever else climbs the same case.
 */
export async function climbCase(
  almanac: Almanac,
  caseId: string,
  businessDate: string,
  now = almanac.clock(),
): Promise<void> {
  const step = await locked(almanac, caseId, businessDate, (climbing, within) =>
    nextStep(almanac, climbing, within, now),
  );
  if (step === null) return;
  const finished = await take(almanac, caseId, step, businessDate);
  // After an early retry the rung of the day follows.
  if (finished && step.kind === 'early retry') await climbCase(almanac, caseId, businessDate, now);
}

/** Takes a step; gives false where it must wait, so that nothing of it is written down. */
async function take(almanac: Almanac, caseId: string, step: Step, businessDate: string): Promise<boolean> {
  switch (step.kind) {
    case 'early retry': {
      const outcomes = await retryInvoices(almanac, caseId, `early retry ${step.retryOn}`, businessDate);
      if (outcomes.some(waits)) return false;
      await locked(almanac, caseId, businessDate, async ({ opened }, within) => {
        if (opened.retryOn === step.retryOn)
          await opened.update({ retryOn: null, retryAt: null }, { transaction: within });
      });
      return true;
    }
    case 'rung': {
      const { rung, retries } = step;
      const outcomes = retries
        ? await retryInvoices(almanac, caseId, `rung ${rung}`, businessDate, rung)
        : [];
      if (outcomes.some(waits)) return false;
      await locked(almanac, caseId, businessDate, (climbing, within) =>
        finishRung(almanac, climbing, rung, outcomes, within),
      );
      return true;
    }
    case 'final action':
      await locked(almanac, caseId, businessDate, async (climbing, within) => {
        if ((await nextStep(almanac, climbing, within))?.kind === 'final action')
          await takeFinalAction(almanac, climbing, within);
      });
      return true;
  }
}

/** Outcomes that a ladder may not go by. */
const WAITS: readonly Collected[] = [
  'under way',
  'waits for the cardholder',
  'waits for its gateway',
  'refused',
];

/** Whether what was tried has no outcome that a ladder may go by. */
function waits(outcome: Collected): boolean {
  return WAITS.includes(outcome);
}

/** Does some work on a case while it is open and nobody else can change it; gives null where it is closed. */
function locked<T>(
  almanac: Almanac,
  caseId: string,
  businessDate: string,
  work: (climbing: Climbing, within: Transaction) => Promise<T>,
): Promise<T | null> {
  return almanac.db.transaction(async (within) => {
    const found = await RecoveryCase.findByPk(caseId, { transaction: within, rejectOnEmpty: true });
    const { customerId } = await Subscription.findByPk(found.subscriptionId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    await lockedCustomer(customerId, within);
    const subscription = await lockedSubscription(found.subscriptionId, within);
    const opened = await found.reload({ transaction: within, lock: within.LOCK.UPDATE });
    if (opened.state !== 'open') return null;
    const ladder = await Ladder.findByPk(opened.ladderId, { transaction: within, rejectOnEmpty: true });
    return work({ opened, subscription, ladder, businessDate }, within);
  });
}

/** What is due of a case on a day, or null: nothing is, or it waits. */
async function nextStep(
  almanac: Almanac,
  climbing: Climbing,
  within: Transaction,
  now = almanac.clock(),
): Promise<Step | null> {
  const { opened, ladder, businessDate } = climbing;
  const { retryOn, retryAt, nextRungOn, nextRung } = opened;
  if (await isHeld(almanac, climbing, within)) return null;
  const hoursHavePassed = !retryAt || retryAt <= now;
  if (retryOn !== null && retryOn <= businessDate && hoursHavePassed) return { kind: 'early retry', retryOn };
  if (nextRungOn === null || nextRungOn > businessDate) return null;
  const rung = ladder.rungs[nextRung];
  if ((rung?.letter ?? true) && (await wroteToday(almanac, climbing, within))) {
    await opened.update({ nextRungOn: formatDay(toDay(businessDate) + 1) }, { transaction: within });
    return null;
  }
  if (rung === undefined) return { kind: 'final action' };
  return { kind: 'rung', rung: nextRung, retries: mayRetry(rung, opened.declineClass) };
}

async function retryInvoices(
  almanac: Almanac,
  caseId: string,
  step: string,
  businessDate: string,
  rung?: number,
): Promise<Collected[]> {
  const outcomes: Collected[] = [];
  for (const invoice of await unpaidInvoices(almanac, caseId, businessDate)) {
    const outcome = await collectInvoice(almanac, {
      invoiceId: invoice.id,
      reason: 'retry',
      channel: 'by itself',
      businessDate,
      occasion: `case ${caseId} ${step}`,
      ...(rung === undefined ? {} : { rung: { caseId, rung } }),
    });
    outcomes.push(outcome);
  }
  return outcomes;
}

async function finishRung(
  almanac: Almanac,
  climbing: Climbing,
  at: number,
  outcomes: readonly Collected[],
  within: Transaction,
): Promise<void> {
  const { opened, ladder, businessDate } = climbing;
  const rung = ladder.rungs[at];
  const step = await nextStep(almanac, climbing, within);
  if (rung === undefined || step?.kind !== 'rung' || step.rung !== at) return;
  const following = at + 1;
  const tomorrow = toDay(businessDate) + 1;
  const nextRungOn = formatDay(Math.max(rungDay(ladder, toDay(opened.openedOn), following), tomorrow));
  const wrote = rung.letter && (await writeRung(almanac, climbing, nextRungOn, within));
  const did = [sayRetries(outcomes), wrote ? 'wrote to the customer' : ''].filter(Boolean).join(', ');
  await almanac.db.rows(
    `insert into rungs_climbed (case_id, rung, climbed_on, did) values ($caseId, $rung, $businessDate, $did)
     on conflict (case_id, rung) do update set climbed_on = excluded.climbed_on, did = excluded.did`,
    { caseId: opened.id, rung: at, businessDate, did: did || 'nothing to do' },
    within,
  );
  await opened.update({ nextRung: following, nextRungOn }, { transaction: within });
}

function sayRetries(outcomes: readonly Collected[]): string {
  if (outcomes.some((outcome) => outcome === 'collected' || outcome === 'declined')) return 'retried';
  return outcomes.includes('too many attempts') ? 'not retried: it was tried too often' : '';
}
