import pMap from 'p-map';
import type { Transaction } from 'sequelize';
import { toDay } from '../../core/dates/day.ts';
import { onto } from '../../core/recovery/stepOfCase.ts';
import { capital } from '../../core/words/capital.ts';
import { sayDate } from '../../core/words/date.ts';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { writeToCustomer } from '../customers/correspondence.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { sayCard } from '../notices/occasions.ts';
import { collectInvoice } from '../payments/collect.ts';
import { methodsInTurn, nextMethod } from '../payments/methodsInTurn.ts';
import { SAY_COLLECTED } from '../payments/sayOutcome.ts';
import { Person } from '../staff/Person.ts';
import { isOver } from '../subscriptions/stand.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import type { Climbing } from './climbing.ts';
import { takeFinalAction } from './finalAction.ts';
import { Ladder } from './Ladder.ts';
import { lockCase } from './lockCase.ts';
import type { CaseAct, CaseEffect } from './messages.ts';
import { RecoveryCase } from './RecoveryCase.ts';
import { FINALS, nextDate, sayNext } from './sayCase.ts';
import { climbedBy, columnsOf, standingOf } from './standing.ts';
import { unpaidInvoices } from './unpaid.ts';
import { wroteBefore } from './write.ts';

/** What an act would do to each of some cases. Changes nothing. */
export async function effectOfActs(
  almanac: Almanac,
  ids: readonly string[],
  act: CaseAct,
): Promise<CaseEffect[]> {
  return pMap(
    ids,
    (id) => looked(almanac, id, (climbing, within) => effectOf(almanac, climbing, act, within)),
    {
      concurrency: 4,
    },
  );
}

/**
 * Does something with each of some cases, each by itself: one that it cannot be done to says why, and stops no other. What is
 * to be done is looked at again under the lock.
 */
export async function actOnCases(
  almanac: Almanac,
  ids: readonly string[],
  act: CaseAct,
): Promise<CaseEffect[]> {
  const key = askerNow().onceUnder?.key ?? (await businessDateOf(almanac));
  const one = async (id: string) => {
    try {
      return await actOn(almanac, id, act, key);
    } catch (error) {
      if (!(error instanceof RefusedCommand))
        almanac.log.error({ work: 'acts on cases', case: id, err: error }, 'failed');
      return refusal(
        id,
        '',
        error instanceof RefusedCommand ? error.message : 'That did not work: look at it.',
      );
    }
  };
  return pMap(ids, one, { concurrency: 4 });
}

async function actOn(almanac: Almanac, id: string, act: CaseAct, key: string): Promise<CaseEffect> {
  const done = await looked(almanac, id, async (climbing, within) => {
    const effect = await effectOf(almanac, climbing, act, within);
    if (effect.refused !== null) return effect;
    await doWithin(almanac, climbing, act, within);
    await recordDone(
      almanac,
      { did: DID[act.do], subject: effect.customer, after: { case: id, ...act, says: effect.says } },
      within,
    );
    return effect;
  });
  if (done.refused !== null) return done;
  if (act.do === 'try') return { ...done, says: await tryNow(almanac, id, key) };
  if (act.do === 'write') await write(almanac, id, act.says);
  return done;
}

const DID: Readonly<Record<CaseAct['do'], string>> = {
  try: 'tried a case by hand',
  'set aside': 'set a case aside',
  assign: 'assigned a case',
  'give up': 'gave a case up',
  'climb by': 'put a case on another ladder',
  write: 'wrote to the customer of a case',
};

/** Looks at an open case under its locks. One that is closed, or that there is not, is refused as a value. */
async function looked(
  almanac: Almanac,
  id: string,
  work: (climbing: Climbing, within: Transaction) => Promise<CaseEffect>,
): Promise<CaseEffect> {
  return almanac.db.transaction(async (within) => {
    const found = await lockCase(id, within);
    if (!found) return refusal(id, '', 'There is no such case.');
    const { name } = await Customer.findByPk(found.subscription.customerId, {
      ...{ transaction: within, rejectOnEmpty: true },
    });
    if (found.opened.state !== 'open') return refusal(id, name, 'It is closed already.');
    return work({ ...found, businessDate: await businessDateOf(almanac, within) }, within);
  });
}

const refusal = (id: string, customer: string, refused: string): CaseEffect => ({
  ...{ id, customer, owed: '0', currency: '', says: '', refused },
});

async function effectOf(
  almanac: Almanac,
  climbing: Climbing,
  act: CaseAct,
  within: Transaction,
): Promise<CaseEffect> {
  const { opened, subscription, businessDate } = climbing;
  const customer = await Customer.findByPk(subscription.customerId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const unpaid = await unpaidInvoices(almanac, opened.id, businessDate, within);
  const owed = unpaid.reduce((sum, { balance }) => sum + BigInt(balance), 0n);
  const facts = {
    ...{
      id: opened.id,
      customer: customer.name,
      owed: owed.toString(),
      currency: subscription.terms.currency,
    },
  };
  const said = (says: string): CaseEffect => ({ ...facts, says, refused: null });
  const refused = (why: string): CaseEffect => ({ ...facts, says: '', refused: why });
  switch (act.do) {
    case 'try': {
      if (subscription.collects === 'by hand') return refused('It is paid by hand: there is no card to try.');
      if (await isUnderWay(almanac, opened.id, within)) return refused('It is being collected already.');
      const method = await nextMethod(await methodsInTurn(subscription, within), new Set(), within);
      if (!method) return refused('No card of theirs can be charged: only the customer can mend that.');
      return said(`Charges ${sayAmount(owed, facts.currency)} to ${sayCard(method)} now.`);
    }
    case 'set aside': {
      if (act.until === null)
        return opened.asideUntil ? said('The ladder goes on.') : refused('It is not set aside.');
      if (act.until <= businessDate) return refused('Choose a day that is to come.');
      if (toDay(act.until) > toDay(businessDate) + MOST_ASIDE) return refused('Within a year.');
      return said(
        `Nothing is tried or written before ${sayDate(act.until)}; then the ladder goes on where it stands.`,
      );
    }
    case 'assign': {
      if (act.to === null)
        return opened.assignedTo ? said('Nobody looks after it.') : refused('Nobody looks after it now.');
      const person = await Person.findOne({ where: { id: act.to, leftAt: null }, transaction: within });
      if (!person) return refused('There is no such person any more.');
      if (opened.assignedTo === person.id) return refused(`${person.name} looks after it already.`);
      return said(`${person.name} looks after it.`);
    }
    case 'give up':
      return giveUpEffect(
        almanac,
        climbing,
        { said, refused, owed: sayAmount(owed, facts.currency) },
        within,
      );
    case 'climb by': {
      const to = await Ladder.findOne({
        where: { lineId: act.ladder, isCurrent: true },
        transaction: within,
      });
      if (!to) return refused('There is no such ladder in use.');
      if (to.id === opened.ladderId) return refused('It climbs this version already.');
      const standing = onto(standingOf(opened), await climbedBy(almanac, to, within), toDay(businessDate));
      const was = `${capital(sayNext(standingOf(opened), climbing.ladder, subscription.collects))} on ${sayDate(nextDate(standingOf(opened), businessDate))}`;
      return said(
        `Now: ${was}. Then: ${sayNext(standing, to, subscription.collects)} on ${sayDate(nextDate(standing, businessDate))}.`,
      );
    }
    case 'write':
      return customer.email === ''
        ? refused('There is no e-mail address.')
        : said(`A letter goes to ${customer.email}.`);
  }
}

/** A case is set aside for so many days at most. */
const MOST_ASIDE = 366;

async function giveUpEffect(
  almanac: Almanac,
  climbing: Climbing,
  say: {
    readonly said: (says: string) => CaseEffect;
    readonly refused: (why: string) => CaseEffect;
    readonly owed: string;
  },
  within: Transaction,
): Promise<CaseEffect> {
  const { opened, subscription, ladder } = climbing;
  if (await isUnderWay(almanac, opened.id, within))
    return say.refused('It is being collected: wait for the answer.');
  const isSilent = ladder.finalAction !== 'leave' && !isOver(subscription);
  const wrote = await wroteBefore(almanac, climbing, within);
  if (isSilent && !wrote)
    return say.refused('Nobody lapses in silence: write to them first, and give it up from the day after.');
  return say.said(`${capital(FINALS[ladder.finalAction])}. ${say.owed} is open.`);
}

async function isUnderWay(almanac: Almanac, caseId: string, within: Transaction): Promise<boolean> {
  const found = await almanac.db.row(
    `select 1 from attempts a join invoices i on i.id = a.invoice_id where i.case_id = $caseId and a.state = 'under way' limit 1`,
    { caseId },
    within,
  );
  return found !== null;
}

/** What is done in the transaction that looked at it; a charge and a letter of its own follow after it. */
async function doWithin(
  almanac: Almanac,
  climbing: Climbing,
  act: CaseAct,
  within: Transaction,
): Promise<void> {
  const { opened, businessDate } = climbing;
  switch (act.do) {
    case 'set aside':
      await opened.update({ asideUntil: act.until }, { transaction: within });
      return;
    case 'assign':
      await opened.update({ assignedTo: act.to }, { transaction: within });
      return;
    case 'give up':
      return takeFinalAction(almanac, climbing, 'given up by staff', within);
    case 'climb by': {
      const to = await Ladder.findOne({
        where: { lineId: act.ladder, isCurrent: true },
        transaction: within,
        rejectOnEmpty: true,
      });
      const standing = onto(standingOf(opened), await climbedBy(almanac, to, within), toDay(businessDate));
      await opened.update(
        { ...columnsOf(standing), ladderId: to.id, leg: opened.leg + 1 },
        { transaction: within },
      );
      return;
    }
    case 'try':
    case 'write':
  }
}

/** Charges what is owed of a case now; gives how it went, in words. Asked for twice under one key it is one charge. */
async function tryNow(almanac: Almanac, caseId: string, key: string): Promise<string> {
  const businessDate = await businessDateOf(almanac);
  const outcomes: string[] = [];
  for (const { id } of await unpaidInvoices(almanac, caseId, businessDate)) {
    const outcome = await collectInvoice(almanac, {
      ...{ invoiceId: id, reason: 'by staff', channel: 'by itself', businessDate },
      occasion: `case ${caseId} by staff ${key}`,
    });
    outcomes.push(SAY_COLLECTED[outcome]);
  }
  return outcomes.length === 0 ? 'Nothing is owed any more.' : outcomes.join(' ');
}

async function write(almanac: Almanac, caseId: string, says: string): Promise<void> {
  const { subscriptionId } = await RecoveryCase.findByPk(caseId, { rejectOnEmpty: true });
  const { customerId } = await Subscription.findByPk(subscriptionId, { rejectOnEmpty: true });
  await writeToCustomer(almanac, customerId, says, { caseId, subscriptionId });
}

/** Keeps what was said on the telephone, or a note, with a case. */
export function noteOnCase(
  almanac: Almanac,
  id: string,
  { kind, says }: { readonly kind: 'note' | 'call'; readonly says: string },
): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const found = await RecoveryCase.findByPk(id, { transaction: within });
    if (!found) throw new RefusedCommand(404, 'There is no such case.');
    const { customerId, id: subscriptionId } = await Subscription.findByPk(found.subscriptionId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    const { name } = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
    await almanac.db.rows(
      `insert into notes (customer_id, subscription_id, case_id, kind, says, written_on, written_by)
       values ($customerId, $subscriptionId, $id, $kind, $says, $on, $who)`,
      {
        ...{ customerId, subscriptionId, id, kind, says, who: askerNow().who },
        on: await businessDateOf(almanac, within),
      },
      within,
    );
    await recordDone(almanac, { did: 'kept a note of a case', subject: name, after: { kind, says } }, within);
  });
}
