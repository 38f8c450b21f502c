import { money, onDate, sentence, type Said } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import { alterTerms, boundariesAhead, effectiveDay, type Alteration } from '../../core/alter/alterTerms.ts';
import type { RunningTerms } from '../../core/alter/runningTerms.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import { pricesBeside } from '../../core/offer/pricesBeside.ts';
import { outlineOf } from '../../core/listing/outline.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import type { Law, LawFacts } from '../../core/terms/law.ts';
import type { Terms, TermsLine } from '../../core/terms/schema.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { linkForLetter } from '../customers/link.ts';
import { useCode } from '../discounts/discounts.ts';
import { RefusedCommand } from '../http/problem.ts';
import { duesAhead } from '../invoices/dues.ts';
import { writeAbout } from '../notices/occasions.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { faultsOfTerms } from '../plans/rateTerms.ts';
import type { AlterationEffect, AlterationMessage, LineBesides } from './alterMessages.ts';
import { KeptAlteration, type BeforeAlteration } from './KeptAlteration.ts';
import { lawFactsOf, loadLaw } from './law.ts';
import type { ComingPayment } from './messages.ts';
import { requireAllowed } from './mayAlter.ts';
import { invoiceDueWithin } from './invoiceDue.ts';
import { issueDay } from '../../core/listing/issueDay.ts';
import {
  allOf,
  allTakenBack,
  issuedEarly,
  issuesMore,
  lackedOf,
  requireNoneUnderWay,
  standingUnder,
  takeBackEarly,
  viewOf,
  type Standing,
} from './issuedEarly.ts';
import { isOver, standEnded } from './stand.ts';
import { nextWake } from './standing.ts';
import { Subscription } from './Subscription.ts';
import { creditLeftOf, settlementOf, waysOf } from './settlementOf.ts';
import { comingOf } from './subscriptions.ts';
import { linesThen, planAlteration, sayEnd, type Planned } from './planAlteration.ts';

/** Who asks for an alteration. Customers may do what their plan allows. */
export type AlteredBy = 'customer' | 'business';

/** A reason stands on a document. */
const LONGEST_REASON = 300;
/** Payments that are shown before and after. */
const SHOWN = 6;

/** What an alteration would do. Changes nothing. */
export function effectOfAlteration(
  almanac: Almanac,
  id: string,
  asked: AlterationMessage,
  by: AlteredBy,
): Promise<AlterationEffect> {
  return almanac.db.transaction(async (within) => (await prepare(almanac, id, asked, by, within)).effect);
}

/**
 * Alters a subscription that runs: its terms get a change beyond everything charged, the letter and the audit say
 * what was done. Nothing has to be confirmed after it: it is done.
 */
export function alterSubscription(
  almanac: Almanac,
  id: string,
  asked: AlterationMessage,
  by: AlteredBy,
): Promise<AlterationEffect> {
  return almanac.db.transaction((within) => alter(almanac, id, asked, by, within));
}

async function alter(
  almanac: Almanac,
  id: string,
  asked: AlterationMessage,
  by: AlteredBy,
  within: Transaction,
): Promise<AlterationEffect> {
  const prepared = await prepare(almanac, id, asked, by, within);
  const { subscription, planned, terms, law, facts, today, effect, early } = prepared;
  const before = {
    ends: subscription.endsOn,
    variantId: subscription.variantId,
    rateCardId: subscription.rateCardId,
  };
  if (asked.kind === 'cancel' && endsAtOnce(subscription, asked.when)) {
    const why = by === 'customer' ? 'cancelled by the customer' : 'cancelled by the business';
    await subscription.update({ walk: early.walk }, { transaction: within });
    await standEnded(subscription, { why, closedOn: today, cancelledBy: by }, within);
  } else {
    const cancelledBy =
      asked.kind === 'cancel' ? by : asked.kind === 'go on' ? null : (subscription.cancelledBy ?? null);
    const stood = standOf(subscription);
    const walk = early.walk;
    const dated = datedBy(subscription, { terms, walk }, law.compile({ ...facts, terms }), today);
    await subscription.update({ ...dated, ...planned.facts, walk, cancelledBy }, { transaction: within });
    await KeptAlteration.create(
      {
        ...{ subscriptionId: id, madeOn: today, madeBy: by, asked, alteration: planned.alteration },
        ...{ says: effect.says, effectiveOn: effect.effectiveOn, before: stood, termsAfter: terms },
      },
      { transaction: within },
    );
  }
  await issueAnew(almanac, prepared, effect.says, within);
  for (const use of planned.codes) await useCode(almanac, { ...use, on: today }, '/code', within);
  const customer = await Customer.findByPk(subscription.customerId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  await recordDone(
    almanac,
    { did: 'altered a subscription', subject: customer.name, before, after: { asked, says: effect.says } },
    within,
  );
  const event = asked.kind === 'cancel' ? 'cancelled' : 'subscription altered';
  await tellAltered(almanac, subscription, event, { effect, kind: asked.kind }, today, within);
  return effect;
}

/** Takes back what was issued early and comes out otherwise, and issues what has its day anew, in the same act. */
export async function issueAnew(
  almanac: Almanac,
  of: { readonly subscription: Subscription; readonly early: Standing; readonly today: string },
  says: string,
  within: Transaction,
): Promise<void> {
  const { subscription, early, today } = of;
  if (!issuesMore(early)) return;
  const reason = `Changed before it began: ${says}`;
  await takeBackEarly(almanac, subscription, early.takenBack, reason.slice(0, LONGEST_REASON), within);
  // The walk goes on from before all of it, and passes over what stands.
  if (isOver(subscription)) return;
  await subscription.update({ walk: early.place, wakeOn: today }, { transaction: within });
  await invoiceDueWithin(almanac, [subscription.id], today, within, { stands: early.stands });
}

async function prepare(
  almanac: Almanac,
  id: string,
  asked: AlterationMessage,
  by: AlteredBy,
  within: Transaction,
) {
  const subscription = await Subscription.findByPk(id, { transaction: within, lock: within.LOCK.UPDATE });
  if (!subscription) throw new RefusedCommand(404, 'There is no such subscription.');
  if (subscription.state === 'lapsed' || subscription.state === 'ended')
    throw new RefusedCommand(422, 'This subscription is over.');
  const today = await businessDateOf(almanac, within);
  const rate = await Rate.findByPk(subscription.rateId, { transaction: within, rejectOnEmpty: true });
  const plan = await Plan.findByPk(rate.planId, { transaction: within, rejectOnEmpty: true });
  const law = await loadLaw(almanac, within);
  const facts = await lawFactsOf(almanac, id, within);
  // It is planned as if nothing had been issued before its time.
  const issued = await issuedEarly(almanac, subscription, today, within);
  const running = { terms: subscription.terms, compiled: law.compile(facts), walk: issued.walk };
  if (by === 'customer') requireAllowed(plan, subscription, asked, boundariesAhead(running, 1)[0] ?? null);
  const planned = await planAlteration(almanac, { subscription, plan, rate, running, today }, asked, within);
  const atOnce = asked.kind === 'cancel' && endsAtOnce(subscription, asked.when);
  const terms = atOnce ? subscription.terms : termsAfter(running, planned.alteration, today);
  // What is invoiced already is charged on its dates, whatever becomes of the rest; what is early is among the rest.
  const isEarly = new Set(issued.invoices.map((invoice) => invoice.id));
  const invoiced = (await duesAhead(almanac, [id], within))
    .filter(({ invoiceId }) => !isEarly.has(invoiceId))
    .map(({ dueOn, owed }) => ({ from: dueOn, dueOn, kind: 'due', due: owed }));
  const early = atOnce
    ? allTakenBack(issued)
    : standingUnder(issued, { before: running.compiled, after: law.compile({ ...facts, terms }) }, today);
  requireNoneUnderWay(early);
  const effect = effectOf({
    subscription,
    running,
    law,
    facts,
    planned,
    terms,
    today,
    atOnce,
    invoiced,
    early,
  });
  return { subscription, planned, terms, law, facts, today, effect, early };
}

/** What an alteration may change of a subscription, as it stands. */
export function standOf(subscription: Subscription): BeforeAlteration {
  const { terms, variantId, rateCardId, extras, cancelledBy } = subscription;
  return { terms, variantId, rateCardId, extras, cancelledBy };
}

/** The columns that follow from new terms: their dates, and when the run looks at them next. */
export function datedBy(
  subscription: Pick<Subscription, 'startsOn' | 'issueBefore'>,
  { terms, walk }: { readonly terms: Terms; readonly walk: WalkPosition | null },
  compiled: CompiledTerms,
  today: string,
) {
  const { trialEnds, ends } = outlineOf(compileTerms(terms));
  const next = new PaymentWalk(compiled, walk ?? undefined).next();
  const dated = {
    terms,
    startsOn: subscription.startsOn,
    trialEndsOn: trialEnds === null ? null : formatDay(trialEnds),
    endsOn: ends === null ? null : formatDay(ends),
  };
  const day = next && issueDay(next, { ...dated, issueBefore: subscription.issueBefore });
  // What is taken back may have had its day before.
  const issues = day === null ? null : Math.max(day, toDay(today));
  return { ...dated, wakeOn: nextWake(dated, formatDay(toDay(today) - 1), issues) };
}

/** What is to stop now ends today, and so does what has not begun yet, unless so many payments were agreed to. */
function endsAtOnce(subscription: Subscription, when: string): boolean {
  return when === 'now' || (when === 'period end' && subscription.state === 'scheduled');
}

export function termsAfter(running: RunningTerms, alteration: Alteration, today: string): Terms {
  const altered = alterTerms(running, alteration, today);
  // What is refused of these is the day that was given.
  const field = alteration.kind === 'date' || alteration.kind === 'pause until' ? '/to' : undefined;
  if ('refused' in altered) throw new RefusedCommand(422, altered.refused, field);
  const fault = faultsOfTerms(altered.terms)[0];
  if (fault) throw new RefusedCommand(422, fault.detail, field);
  return altered.terms;
}

function effectOf(of: {
  subscription: Subscription;
  running: RunningTerms;
  law: Law;
  facts: LawFacts;
  planned: Planned;
  terms: Terms;
  today: string;
  atOnce: boolean;
  invoiced: readonly ComingPayment[];
  early: Standing;
}): AlterationEffect {
  const { subscription, running, law, facts, planned, terms, today, atOnce, invoiced, early } = of;
  const { state } = subscription;
  const { currency } = terms;
  const stands = { state, walk: running.walk };
  const end = atOnce ? toDay(today) : outlineOf(compileTerms(terms)).ends;
  const endsOn = end === null ? null : formatDay(end);
  const effectiveOn = effectiveDay(running, fromOf(planned), today);
  return {
    says: planned.says ?? sayEnd(endsOn),
    currency,
    withoutTax: law.taxSaid(facts, toDay(today))?.mode === 'exclusive',
    lines:
      planned.lines === null
        ? []
        : besides(linesThen({ running, today }, fromOf(planned)), planned.lines, currency),
    before: [...invoiced, ...lackedOf(comingOf({ ...facts, ...stands }, SHOWN, law), allOf(early))],
    after: [
      ...invoiced,
      ...(atOnce ? [] : lackedOf(comingOf({ ...facts, terms, ...stands }, SHOWN, law), early.stands)),
    ],
    ...settledAs(of, end !== null),
    ...(atOnce
      ? { takenBack: viewOf(early.takenBack), issuesAnew: false }
      : sayTakenBack(subscription, early, law.compile({ ...facts, terms }), today)),
    endsOn,
    effectiveOn: planned.alteration.kind === 'end' && endsOn !== null ? endsOn : effectiveOn,
  };
}

/** What of what was issued early is taken back, and whether it is issued anew today. */
export function sayTakenBack(
  { startsOn, trialEndsOn = null, issueBefore }: Subscription,
  { takenBack, walk }: Standing,
  compiled: CompiledTerms,
  today: string,
): Pick<AlterationEffect, 'takenBack' | 'issuesAnew'> {
  const next = takenBack.length === 0 ? null : new PaymentWalk(compiled, walk ?? undefined).next();
  const issues = next && issueDay(next, { startsOn, trialEndsOn, issueBefore });
  return { takenBack: viewOf(takenBack), issuesAnew: issues !== null && issues <= toDay(today) };
}

/** How it is settled, and what either way would come to. */
function settledAs(
  { running, law, facts, planned, terms, today, atOnce }: Parameters<typeof effectOf>[0],
  hasEnd: boolean,
): Pick<AlterationEffect, 'settlement' | 'ways' | 'creditLeft'> {
  const { walk } = running;
  const compile = (altered: Terms) => law.compile({ ...facts, terms: altered });
  const after = compile(terms);
  if (atOnce) return { settlement: null, ways: null, creditLeft: '0' };
  return {
    settlement: settlementOf({ before: running.compiled, after, walk }, terms.currency),
    ways: waysOf(running, planned.alteration, today, compile),
    creditLeft: (hasEnd ? creditLeftOf(after, walk) : 0n).toString(),
  };
}

const fromOf = ({ alteration }: Planned) => ('from' in alteration ? alteration.from : 'renewal');

/** The price of each line for a full period, before and after, side by side. */
function besides(before: readonly TermsLine[], after: readonly TermsLine[], currency: string): LineBesides[] {
  return pricesBeside(before, after, currency).map((line) => ({
    name: line.name,
    before: line.before?.toString() ?? null,
    after: line.after?.toString() ?? null,
  }));
}

/** Writes to the customer what was altered, and what comes next. */
export async function tellAltered(
  almanac: Almanac,
  subscription: Subscription,
  event: 'cancelled' | 'subscription altered',
  /** What it comes to, and the kind of change that it is. */
  { effect, kind }: { readonly effect: AlterationEffect; readonly kind: string },
  today: string,
  within: Transaction,
): Promise<void> {
  const coming = effect.after.find(({ due }) => due !== '0');
  const { currency, creditLeft } = effect;
  const next: Said = coming
    ? sentence('next payment', { amount: money(BigInt(coming.due), currency), date: onDate(coming.dueOn) })
    : {
        all: [
          sentence('nothing more', {}),
          ...(creditLeft === '0'
            ? []
            : [sentence('left as credit', { amount: money(BigInt(creditLeft), currency) })]),
        ],
        joined: ' ',
      };
  const number = await almanac.db.row<{ n: string }>(
    `select count(*)::text as n from letters where subscription_id = $id and event in ('subscription altered', 'cancelled')`,
    { id: subscription.id },
    within,
  );
  await writeAbout(
    almanac,
    subscription,
    {
      event,
      onceKey: `altered:${subscription.id}:${number?.n ?? '0'}`,
      reason: effect.says,
      linkId: (await linkForLetter(subscription, today, within)).id,
      says: {
        date: onDate(effect.endsOn ?? today),
        reason: sentence('altered', { says: effect.says, kind, date: onDate(effect.effectiveOn) }),
        next,
      },
    },
    today,
    within,
  );
}
