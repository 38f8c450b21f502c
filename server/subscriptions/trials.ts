import { money, onDate, sentence, type Said } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import { trialNoticeDays } from '../../core/offer/trialNotice.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { endWaiting } from '../customers/endWaiting.ts';
import { linkForLetter } from '../customers/link.ts';
import { saidCurrentCard, writeAbout } from '../notices/occasions.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { saidCancelling } from '../policies/saidCancelling.ts';
import { settingsOf } from '../settings/settings.ts';
import { firstCharge } from './firstCharge.ts';
import { lawFactsOf, loadLaw } from './law.ts';
import type { WithoutMethod } from './states.ts';
import { lockedSubscription } from './lock.ts';
import { isOver, standEnded, standResting } from './stand.ts';
import { Subscription } from './Subscription.ts';

/** A pause that a card ends; without one it is as good as for ever. */
const LONG_PAUSE_DAYS = 3653;

const WHAT_HAPPENS: Readonly<Record<WithoutMethod, Said>> = {
  end: sentence('without card end', {}),
  pause: sentence('without card pause', {}),
  invoice: sentence('without card invoice', {}),
  wait: sentence('without card wait', {}),
};

/** The longest notice that a rate or a country may ask for. */
export const LONGEST_NOTICE_DAYS = 90;

/** The trials that nobody was told of and whose end may be near enough for that. */
export const TRIALS_TO_TELL = `
  select id::text as item from subscriptions s
  where s.state = 'trial' and s.trial_ends_on <= $by
    and not exists (select 1 from letters where once_key = 'trial:' || s.id || ':' || s.trial_ends_on)
  order by s.id`;

/** Those of some trials whose end is as near as their rate, and the country of their customer, ask to be told of. */
export async function trialsToTell(
  almanac: Almanac,
  ids: readonly string[],
  businessDate: string,
): Promise<string[]> {
  const today = toDay(businessDate);
  const rows = await almanac.db.rows<{
    id: string;
    starts_on: string;
    trial_ends_on: string;
    asked: number | null;
    country: string | null;
  }>(
    `select s.id::text, s.starts_on, s.trial_ends_on, (v.options ->> 'trialNoticeDays')::int as asked, c.country
     from subscriptions s join customers c on c.id = s.customer_id
     join rate_versions v on v.rate_id = s.rate_id and v.version = s.rate_version
     where s.id = any($ids::bigint[]) order by s.id`,
    { ids },
  );
  const { trialNotices } = await settingsOf(almanac, 'customers');
  const { country: home } = await settingsOf(almanac, 'business');
  const near = rows.filter(({ starts_on, trial_ends_on, asked, country }) => {
    const required = trialNotices.find((one) => one.country === (country ?? home))?.days ?? null;
    const ends = toDay(trial_ends_on);
    return today >= ends - trialNoticeDays({ trialDays: ends - toDay(starts_on), asked, required });
  });
  return near.map(({ id }) => id);
}

/** Writes that a trial ends: what follows, and, where there is no card, what happens without one. */
export function tellOfTrial(almanac: Almanac, id: string, businessDate: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const subscription = await Subscription.findByPk(id, { transaction: within, rejectOnEmpty: true });
    const ends = subscription.trialEndsOn ?? businessDate;
    const law = await loadLaw(almanac, within);
    const first = firstCharge(law.compile(await lawFactsOf(almanac, id, within)), ends);
    if (first === null) return;
    const without: WithoutMethod | null = (await hasCard(subscription, within))
      ? null
      : subscription.withoutMethod;
    await writeAbout(
      almanac,
      subscription,
      {
        event: without ? 'trial without a card' : 'trial ending',
        onceKey: `trial:${id}:${ends}`,
        reason: `The trial ends on ${sayDate(ends)}`,
        linkId: (await linkForLetter(subscription, businessDate, within)).id,
        says: {
          date: onDate(ends),
          amount: money(first.due, subscription.terms.currency),
          next: onDate(formatDay(first.dueOn)),
          policy: await saidCancelling(almanac, businessDate, within),
          ...(without
            ? { reason: WHAT_HAPPENS[without] }
            : { how: subscription.collects, card: await saidCurrentCard(subscription, within) }),
        },
      },
      businessDate,
      within,
    );
  });
}

/** The trials that are over, of subscriptions that could begin without a card. */
export const TRIALS_WITHOUT_CARD = `
  select id::text as item from subscriptions
  where without_method in ('end', 'pause', 'invoice') and trial_ends_on <= $businessDate and state not in ('lapsed', 'ended', 'paused')
  order by id`;

/** Does what was agreed for a trial that ends without a card: it ends, rests, or is invoiced. With a card it goes on. */
export function settleTrial(almanac: Almanac, id: string, businessDate: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const subscription = await lockedSubscription(id, within);
    if (isOver(subscription)) return;
    const { withoutMethod, trialEndsOn, terms } = subscription;
    const settled = { withoutMethod: null };
    if (!withoutMethod || !trialEndsOn || !('lines' in terms)) return;
    if (await hasCard(subscription, within)) {
      await subscription.update(settled, { transaction: within });
      return;
    }
    switch (withoutMethod) {
      case 'end':
        await subscription.update(settled, { transaction: within });
        await standEnded(subscription, { why: 'not taken up', closedOn: trialEndsOn }, within);
        return;
      case 'pause': {
        if (terms.pauses?.some((pause) => pause.from === trialEndsOn)) return;
        const pauses = (terms.pauses ?? []).filter(({ to }) => to <= trialEndsOn);
        const to = formatDay(toDay(trialEndsOn) + LONG_PAUSE_DAYS);
        const rest = { from: trialEndsOn, to, resume: 'restart' as const };
        await subscription.update(
          { terms: { ...terms, pauses: [...pauses, rest] }, wakeOn: businessDate },
          { transaction: within },
        );
        await standResting(subscription, within);
        return;
      }
      case 'invoice':
        await subscription.update({ ...settled, collects: 'by hand' }, { transaction: within });
        return;
      case 'wait':
        return;
    }
  });
}

/** A customer has given a card: what rested for want of one goes on from this day. */
export async function wakeForCard(
  almanac: Almanac,
  customerId: string,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  await endWaiting(almanac, customerId, businessDate, within);
  const resting = await Subscription.findAll({
    where: { customerId, state: ['paused', 'overdue'], withoutMethod: 'pause' },
    transaction: within,
    lock: within.LOCK.UPDATE,
  });
  // Nothing begins on a day that is over: where today has been turned, it goes on tomorrow.
  const turned = await almanac.db.row(
    'select 1 from days where business_date = $businessDate and finished_at is not null',
    { businessDate },
    within,
  );
  const to = turned ? formatDay(toDay(businessDate) + 1) : businessDate;
  for (const subscription of resting) {
    const { terms, trialEndsOn } = subscription;
    if (!('lines' in terms) || !terms.pauses?.some(({ from }) => from === trialEndsOn)) continue;
    const pauses = terms.pauses.map((one) => (one.from === trialEndsOn ? { ...one, to } : one));
    const woken = { ...terms, pauses };
    const walk = await walkedAnew(almanac, subscription, woken, within);
    await subscription.update(
      { terms: woken, walk, withoutMethod: null, wakeOn: businessDate },
      { transaction: within },
    );
  }
}

/**
 * The place that a subscription's invoices have reached by other terms under which they come to the same: where an
 * amount was charged during a rest, its place lies inside of the rest, which now ends sooner.
 */
async function walkedAnew(
  almanac: Almanac,
  subscription: Subscription,
  terms: Terms,
  within: Transaction,
): Promise<WalkPosition | null> {
  const { walk } = subscription;
  if (!walk) return null;
  const law = await loadLaw(almanac, within);
  const facts = await lawFactsOf(almanac, subscription.id, within);
  const anew = new PaymentWalk(law.compile({ ...facts, terms }));
  const given = await almanac.db.row<{ documents: number }>(
    `select (select count(*) from invoices where subscription_id = $id)::int
       + (select count(*) from credit_notes where subscription_id = $id and kind = 'settlement')::int as documents`,
    { id: subscription.id },
    within,
  );
  for (let n = 0; n < (given?.documents ?? 0); n += 1) anew.next();
  return { ...anew.position(), credit: walk.credit };
}

async function hasCard(subscription: Subscription, within: Transaction): Promise<boolean> {
  return (await methodInUse(subscription, within))?.state === 'usable';
}
