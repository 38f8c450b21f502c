import type { Transaction } from 'sequelize';
import { effectiveDay } from '../../core/alter/alterTerms.ts';
import { toDay } from '../../core/dates/day.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { datedBy, issueAnew, sayTakenBack, standOf, tellAltered, termsAfter } from './alter.ts';
import type { AlterationEffect, PlannedChange } from './alterMessages.ts';
import { KeptAlteration, type BeforeAlteration } from './KeptAlteration.ts';
import { allOf, issuedEarly, lackedOf, requireNoneUnderWay, standingUnder } from './issuedEarly.ts';
import { lawFactsOf, loadLaw } from './law.ts';
import { lockedSubscription } from './lock.ts';
import { planAlteration, sayEnd } from './planAlteration.ts';
import { Subscription } from './Subscription.ts';
import { comingOf } from './subscriptions.ts';

/** Payments that are shown before and after. */
const SHOWN = 6;

/** What was agreed to for a subscription and lies ahead, the next first: its alterations and moves of its rate. */
export async function plannedChanges(almanac: Almanac, id: string): Promise<PlannedChange[]> {
  const subscription = await Subscription.findByPk(id);
  if (!subscription) throw new RefusedCommand(404, 'There is no such subscription.');
  const today = await businessDateOf(almanac);
  const kept = await keptOf(subscription.id);
  const { walk } = await issuedEarly(almanac, subscription, today);
  const stands = { ...standOf(subscription), state: subscription.state, walk };
  const moves = await almanac.db.rows<{ id: string; on: string; rate: string; version: number }>(
    `select sm.move_id::text as id, sm.effective_on as "on", r.name as rate, m.to_version as version
     from subscription_moves sm join rate_moves m on m.id = sm.move_id join rates r on r.id = m.rate_id
     where sm.subscription_id = $id and sm.effective_on > $today order by sm.effective_on`,
    { id: subscription.id, today },
  );
  const ahead = kept
    .filter((one) => one.asked.kind !== 'go on' && one.effectiveOn >= today)
    .map((one) => ({
      ...{ id: one.id, says: one.says, madeOn: one.madeOn, madeBy: one.madeBy },
      effectiveOn: one.effectiveOn,
      stays: whyItStays(stands, kept, one, today),
    }));
  const moved = moves.map(({ id, on, rate, version }) => ({
    ...{
      id: `move-${id}`,
      says: `it moves to version ${version} of ${rate}`,
      madeOn: '',
      madeBy: 'rate' as const,
    },
    ...{ effectiveOn: on, stays: 'It belongs to the change of the rate.' },
  }));
  return [...ahead, ...moved].sort((a, b) => (a.effectiveOn < b.effectiveOn ? -1 : 1));
}

/** What taking one back would do. Changes nothing. */
export function effectOfTakingBack(
  almanac: Almanac,
  id: string,
  alterationId: string,
): Promise<AlterationEffect> {
  return almanac.db.transaction(async (within) => (await prepare(almanac, id, alterationId, within)).effect);
}

/** Takes one back: the terms are what they would be without it, and what was agreed to after it stands. */
export function takeBack(almanac: Almanac, id: string, alterationId: string): Promise<AlterationEffect> {
  return almanac.db.transaction(async (within) => {
    const prepared = await prepare(almanac, id, alterationId, within);
    const { subscription, target, after, chain, effect, dated, today, early } = prepared;
    await subscription.update({ ...after, ...dated, walk: early.walk }, { transaction: within });
    await target.update({ takenBackOn: today }, { transaction: within });
    for (const { kept, ...facts } of chain) await kept.update(facts, { transaction: within });
    await issueAnew(almanac, prepared, effect.says, within);
    if (target.alteration.kind === 'discount') await releaseCode(almanac, id, target, within);
    const customer = await Customer.findByPk(subscription.customerId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    await recordDone(
      almanac,
      {
        did: 'took back a change of a subscription',
        subject: customer.name,
        before: { asked: target.asked, says: target.says },
        after: { says: effect.says },
      },
      within,
    );
    await tellAltered(
      almanac,
      subscription,
      'subscription altered',
      { effect, kind: 'taken back' },
      today,
      within,
    );
    return effect;
  });
}

function keptOf(subscriptionId: string, within?: Transaction): Promise<KeptAlteration[]> {
  return KeptAlteration.findAll({
    where: { subscriptionId, takenBackOn: null },
    order: [['id', 'ASC']],
    ...(within ? { transaction: within } : {}),
  });
}

/** Why an alteration cannot be taken back, or null where it can. */
function whyItStays(
  subscription: Pick<Subscription, 'terms' | 'walk' | 'state'>,
  kept: readonly KeptAlteration[],
  target: KeptAlteration,
  today: string,
): string | null {
  const { state, walk, terms } = subscription;
  if (state === 'ended' || state === 'lapsed') return 'This subscription is over.';
  if (hasBegun(walk ?? null, target, today)) return 'It has begun: change it again instead.';
  const last = kept.at(-1);
  if (last && !isSame(last.termsAfter, terms))
    return 'The terms have changed otherwise since: change it again instead.';
  const later = kept.slice(kept.indexOf(target) + 1);
  // What is done anew without it would begin later than it did, and was invoiced.
  const begun = later.find((one) => hasBegun(walk ?? null, one, today));
  if (begun) return `What was agreed to after it has begun: ${begun.says}.`;
  const stuck = later.find(
    ({ asked }) => ('from' in asked && asked.from === 'now') || asked.kind === 'go on',
  );
  return stuck ? `Take back first what was agreed to after it: ${stuck.says}.` : null;
}

/** Whether something of it is charged already, or its day is over. */
function hasBegun(walk: Subscription['walk'] | null, target: KeptAlteration, today: string): boolean {
  const { effectiveOn, before } = target;
  if (target.alteration.kind === 'end') return effectiveOn <= today;
  if (effectiveOn < today) return true;
  const day = toDay(effectiveOn);
  const charged = walk?.timetable?.stretch?.from ?? -Infinity;
  const once = (before.terms.once ?? []).filter(({ date }) => date < effectiveOn).length;
  const changes = ('lines' in before.terms ? (before.terms.changes ?? []) : []).filter(
    ({ date }) => date < effectiveOn,
  ).length;
  return charged >= day || (walk?.once ?? 0) > once || (walk?.timetable?.change ?? 0) > changes;
}

/** Documents of the database are alike member by member in one order. */
const isSame = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

async function prepare(almanac: Almanac, id: string, alterationId: string, within: Transaction) {
  const subscription = await lockedSubscription(id, within).catch(() => {
    throw new RefusedCommand(404, 'There is no such subscription.');
  });
  const kept = await keptOf(id, within);
  const target = kept.find((one) => one.id === alterationId);
  if (!target) throw new RefusedCommand(404, 'There is nothing of that kind to take back.');
  const today = await businessDateOf(almanac, within);
  // Nothing that was issued before its time keeps it from being taken back.
  const issued = await issuedEarly(almanac, subscription, today, within);
  const { walk } = issued;
  const stays = whyItStays(
    { ...standOf(subscription), state: subscription.state, walk },
    kept,
    target,
    today,
  );
  if (stays !== null) throw new RefusedCommand(422, stays);
  const later = kept.slice(kept.indexOf(target) + 1);
  const { after, chain } = await replayed(almanac, { subscription, walk, target, later, today }, within);
  const law = await loadLaw(almanac, within);
  const facts = await lawFactsOf(almanac, id, within);
  const compiled = law.compile({ ...facts, terms: after.terms });
  const early = standingUnder(issued, { before: law.compile(facts), after: compiled }, today);
  requireNoneUnderWay(early);
  const dated = datedBy(subscription, { ...after, walk: early.walk }, compiled, today);
  const stands = { state: subscription.state, walk };
  const effect: AlterationEffect = {
    says: `taken back: ${target.says}`,
    currency: after.terms.currency,
    withoutTax: false,
    lines: [],
    before: lackedOf(comingOf({ ...facts, ...stands }, SHOWN, law), allOf(early)),
    after: lackedOf(comingOf({ ...facts, terms: after.terms, ...stands }, SHOWN, law), early.stands),
    ...{ settlement: null, ways: null, creditLeft: '0' },
    ...sayTakenBack(subscription, early, compiled, today),
    endsOn: dated.endsOn,
    effectiveOn: target.effectiveOn,
  };
  return { subscription, target, after, chain, effect, dated, today, early };
}

/** The subscription as it would stand without one alteration, and with all that was agreed to after it done anew. */
async function replayed(
  almanac: Almanac,
  of: {
    readonly subscription: Subscription;
    readonly walk: WalkPosition | null;
    readonly target: KeptAlteration;
    readonly later: readonly KeptAlteration[];
    readonly today: string;
  },
  within: Transaction,
) {
  const { subscription, walk, target, later, today } = of;
  const rate = await Rate.findByPk(subscription.rateId, { transaction: within, rejectOnEmpty: true });
  const plan = await Plan.findByPk(rate.planId, { transaction: within, rejectOnEmpty: true });
  const law = await loadLaw(almanac, within);
  const facts = await lawFactsOf(almanac, subscription.id, within);
  let stands: BeforeAlteration = target.before;
  const chain: {
    kept: KeptAlteration;
    before: BeforeAlteration;
    termsAfter: BeforeAlteration['terms'];
    says: string;
    effectiveOn: string;
  }[] = [];
  for (const kept of later) {
    const running = {
      terms: stands.terms,
      compiled: law.compile({ ...facts, terms: stands.terms }),
      walk,
    };
    // It is planned against the subscription as it would stand, which is written down only at the end.
    const there = Object.assign(Object.create(subscription) as Subscription, stands);
    const planned =
      kept.asked.kind === 'code'
        ? { alteration: kept.alteration, facts: {}, says: kept.says }
        : await planAlteration(
            almanac,
            { subscription: there, plan, rate, running, today },
            kept.asked,
            within,
          );
    const terms = termsAfter(running, planned.alteration, today);
    const cancelledBy = kept.asked.kind === 'cancel' ? kept.madeBy : stands.cancelledBy;
    const next = { ...stands, ...planned.facts, terms, cancelledBy };
    const dated = datedBy(subscription, { terms, walk }, law.compile({ ...facts, terms }), today);
    const effectiveOn =
      planned.alteration.kind === 'end'
        ? (dated.endsOn ?? kept.effectiveOn)
        : effectiveDay(running, 'from' in planned.alteration ? planned.alteration.from : 'renewal', today);
    const says = planned.says ?? sayEnd(dated.endsOn);
    chain.push({ kept, before: stands, termsAfter: terms, says, effectiveOn });
    stands = next;
  }
  return { after: stands, chain };
}

/** A code that is taken back was not used. */
async function releaseCode(
  almanac: Almanac,
  subscriptionId: string,
  { asked }: KeptAlteration,
  within: Transaction,
): Promise<void> {
  await almanac.db.rows(
    `with released as (
       delete from discount_uses where ctid = (
         select u.ctid from discount_uses u join discount_codes c on c.id = u.code_id
         where u.subscription_id = $subscriptionId and c.code = upper($code) limit 1)
       returning discount_id, code_id),
     of_discount as (update discounts set used = used - 1 where id = (select discount_id from released))
     update discount_codes set used = used - 1 where id = (select code_id from released)`,
    { subscriptionId, code: asked.kind === 'code' ? asked.code : '' },
    within,
  );
}
