import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { weighOutcome, type Collected } from '../../core/recovery/outcomes.ts';
import { afterRung, nextStep, type NextStep } from '../../core/recovery/stepOfCase.ts';
import type { Almanac } from '../almanac.ts';
import { collectInvoice } from '../payments/collect.ts';
import { raiseNeedAgain } from '../run/needs.ts';
import { stopServing } from '../subscriptions/stand.ts';
import type { Climbing } from './climbing.ts';
import { keyOfSilence } from './closeCase.ts';
import { takeFinalAction } from './finalAction.ts';
import { lockCase } from './lockCase.ts';
import { lookAt } from './looked.ts';
import { giveTask, tellOfRung } from './rungActs.ts';
import { climbedBy, columnsOf, standingOf } from './standing.ts';
import { unpaidInvoices } from './unpaid.ts';
import { isHeldBack, writeLast, writeRung } from './write.ts';

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
    stepNow(almanac, climbing, within, now),
  );
  if (step === null) return;
  const finished = await take(almanac, caseId, step, businessDate);
  // After an early retry the rung of the day follows.
  if (finished && step.kind === 'early retry') await climbCase(almanac, caseId, businessDate, now);
}

/** Takes a step; gives false where it must wait, so that nothing of it is written down. */
async function take(almanac: Almanac, caseId: string, step: Taken, businessDate: string): Promise<boolean> {
  switch (step.kind) {
    case 'early retry': {
      const { retryOn, retried, leg } = step;
      const occasion = sayOccasion(
        caseId,
        leg,
        `early retry ${retryOn}${retried > 1 ? ` no ${retried}` : ''}`,
      );
      const outcomes = await retryInvoices(almanac, caseId, occasion, businessDate);
      if (outcomes.some(waits)) return false;
      await locked(almanac, caseId, businessDate, async ({ opened }, within) => {
        // An answer that it is away still has set another.
        if (opened.retryOn === retryOn && opened.retried === retried)
          await opened.update({ retryOn: null, retryAt: null }, { transaction: within });
      });
      return true;
    }
    case 'rung': {
      const { rung, leg, retries } = step;
      const outcomes = retries
        ? await retryInvoices(almanac, caseId, sayOccasion(caseId, leg, `rung ${rung}`), businessDate, {
            rung,
            leg,
          })
        : [];
      if (outcomes.some(waits)) return false;
      await locked(almanac, caseId, businessDate, (climbing, within) =>
        finishRung(almanac, climbing, step, outcomes, within),
      );
      return true;
    }
    case 'last letter':
      await locked(almanac, caseId, businessDate, (climbing, within) => warn(almanac, climbing, within));
      return true;
    case 'final action':
      await locked(almanac, caseId, businessDate, async (climbing, within) => {
        if ((await stepNow(almanac, climbing, within))?.kind === 'final action')
          await takeFinalAction(almanac, climbing, 'ladder', within);
      });
      return true;
  }
}

/** What a retry is for: asked again under the same words it is the same attempt. */
const sayOccasion = (caseId: string, leg: number, what: string) =>
  `case ${caseId}${leg === 0 ? '' : ` leg ${leg}`} ${what}`;

/** Whether what was tried has no outcome that a ladder may go by. */
const waits = (outcome: Collected) => weighOutcome(outcome) === 'waits';

/** Does some work on a case while it is open and nobody else can change it; gives null where it is closed. */
function locked<T>(
  almanac: Almanac,
  caseId: string,
  businessDate: string,
  work: (climbing: Climbing, within: Transaction) => Promise<T>,
): Promise<T | null> {
  return almanac.db.transaction(async (within) => {
    const found = await lockCase(caseId, within);
    return found?.opened.state === 'open' ? work({ ...found, businessDate }, within) : null;
  });
}

/** A step that is taken, with what names it. */
type Taken =
  | { readonly kind: 'early retry'; readonly retryOn: string; readonly retried: number; readonly leg: number }
  | (Extract<NextStep, { kind: 'rung' }> & { readonly leg: number })
  | { readonly kind: 'last letter' | 'final action' };

/** What is due of a case on a day, or null: nothing is, or it waits. */
async function stepNow(
  almanac: Almanac,
  climbing: Climbing,
  within: Transaction,
  now = almanac.clock(),
): Promise<Taken | null> {
  const { opened, ladder } = climbing;
  const { leg } = opened;
  const climbed = await climbedBy(almanac, ladder, within);
  const step = nextStep(standingOf(opened), climbed, await lookAt(almanac, climbing, now, within));
  switch (step.kind) {
    case 'nothing':
      return null;
    case 'put off':
      await opened.update(columnsOf(step.standing), { transaction: within });
      return null;
    case 'early retry':
      return { kind: step.kind, retryOn: opened.retryOn ?? '', retried: opened.retried, leg };
    case 'rung':
      return { ...step, leg };
    case 'last letter':
    case 'final action':
      return { kind: step.kind };
  }
}

async function retryInvoices(
  almanac: Almanac,
  caseId: string,
  occasion: string,
  businessDate: string,
  of?: { readonly rung: number; readonly leg: number },
): Promise<Collected[]> {
  const outcomes: Collected[] = [];
  for (const invoice of await unpaidInvoices(almanac, caseId, businessDate)) {
    const outcome = await collectInvoice(almanac, {
      invoiceId: invoice.id,
      reason: 'retry',
      channel: 'by itself',
      businessDate,
      occasion,
      ...(of === undefined ? {} : { rung: { caseId, ...of } }),
    });
    outcomes.push(outcome);
  }
  return outcomes;
}

/**
 * Writes to somebody who would lapse without a letter: the end comes some days after it. Where letters of this kind are
 * switched off, or held back, a person is asked to see to it, and the case waits.
 */
async function warn(almanac: Almanac, climbing: Climbing, within: Transaction): Promise<void> {
  const { opened, ladder, subscription, businessDate } = climbing;
  const climbed = await climbedBy(almanac, ladder, within);
  const looked = await lookAt(almanac, climbing, almanac.clock(), within);
  const step = nextStep(standingOf(opened), climbed, looked);
  if (step.kind !== 'last letter') return;
  await opened.update(columnsOf(step.standing), { transaction: within });
  const isHeld = await isHeldBack(almanac, opened.id, within);
  if (!isHeld && (await writeLast(almanac, climbing, formatDay(step.standing.nextOn), within))) return;
  await raiseNeedAgain(almanac, within, {
    ...{ onceKey: keyOfSilence(opened.id), arose: businessDate, kind: 'recovery task' },
    says: `The ladder is at its end, and nobody was written to: ${isHeld ? 'letters are held back. Let them go' : 'such letters are switched off. Write'}, or give the case up.`,
    ...{ subscriptionId: subscription.id, customerId: subscription.customerId },
  });
}

/** Writes down that a rung was climbed, with all that it does beside the retry, in one transaction. */
async function finishRung(
  almanac: Almanac,
  climbing: Climbing,
  { rung, leg, does, sparesRetry }: Extract<Taken, { kind: 'rung' }>,
  outcomes: readonly Collected[],
  within: Transaction,
): Promise<void> {
  const { opened, ladder, businessDate } = climbing;
  const step = await stepNow(almanac, climbing, within);
  if (step?.kind !== 'rung' || step.rung !== rung || step.leg !== leg) return;
  const climbed = await climbedBy(almanac, ladder, within);
  const after = afterRung(standingOf(opened), climbed, rung, toDay(businessDate));
  const did = [sayRetries(outcomes, sparesRetry)];
  if (does.acts?.kind === 'pause' && (await stopServing(climbing.subscription, businessDate, within)))
    did.push('stopped the service');
  if (does.letter && (await writeRung(almanac, climbing, { rung, leg, after, climbed }, within)))
    did.push('wrote to the customer');
  if (does.tellsStaff) {
    await tellOfRung(almanac, climbing, { rung, leg }, within);
    did.push('told staff');
  }
  if (does.acts?.kind === 'task') {
    await giveTask(almanac, climbing, { rung, leg, says: does.acts.says }, within);
    did.push('gave a person a task');
  }
  await almanac.db.rows(
    `insert into rungs_climbed (case_id, leg, rung, ladder_id, climbed_on, did)
     values ($caseId, $leg, $rung, $ladderId, $businessDate, $did)
     on conflict (case_id, leg, rung) do update set climbed_on = excluded.climbed_on, did = excluded.did`,
    {
      ...{ caseId: opened.id, leg, rung, ladderId: ladder.id, businessDate },
      did: did.filter(Boolean).join(', ') || 'nothing to do',
    },
    within,
  );
  await opened.update(columnsOf(after), { transaction: within });
}

function sayRetries(outcomes: readonly Collected[], sparesRetry: boolean): string {
  if (sparesRetry) return 'not retried: it was tried on that day';
  if (outcomes.some((outcome) => weighOutcome(outcome) === 'answered')) return 'retried';
  return outcomes.includes('too many attempts') ? 'not retried: it was tried too often' : '';
}
