import { isDeepStrictEqual } from 'node:util';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { RateTerms } from '../../core/offer/composeTerms.ts';
import { linesLeftOn, linesListedOn } from '../../core/alter/linesOn.ts';
import type { RunningTerms } from '../../core/alter/runningTerms.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';

import type { ChosenExtra } from '../../core/offer/extras.ts';
import { linesForRunning } from '../../core/offer/linesForRunning.ts';
import type { LinePrices } from '../../core/offer/prices.ts';
import { checkTerms } from '../../core/terms/check.ts';
import type { Law } from '../../core/terms/law.ts';
import type { RecurringTerms, Terms } from '../../core/terms/schema.ts';
import { monthlyValue } from '../../core/value/monthlyValue.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { noteAltered } from '../forecast/altered.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { differenceOf } from '../settings/settings.ts';
import { LAW_COLUMNS, loadLaw } from '../subscriptions/law.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import type { MovedSubscription, MoveEffect, rateEditSchema } from './messages.ts';
import { optionsOf, requireGoodTerms } from './plans.ts';
import { PRICE_COLUMNS } from './otherPrices.ts';
import { Rate } from './Rate.ts';
import { requireNamed } from './references.ts';
import { keepVersion, savedBy } from './rateVersions.ts';

type Edit = z.output<typeof rateEditSchema>;

/** In which transaction who subscribes is looked at, and whether they are kept for it: who only looks keeps nobody waiting. */
interface Looking {
  readonly within: Transaction;
  readonly lock: boolean;
}

interface Running extends MovedSubscription {
  /** The terms after the move; null where it stays. */
  readonly moved: Terms | null;
}

/** What an edit of a rate would do to those who subscribe to it. Changes nothing. */
export async function effectOfRate(almanac: Almanac, rateId: string, edit: Edit): Promise<MoveEffect> {
  requireGoodTerms(edit.value.terms, '/value/terms');
  return almanac.db.transaction(async (within) =>
    effectOf(await whatMoves(almanac, rateId, edit, { within, lock: false })),
  );
}

/** So many of those that a move is about are named one by one. */
const MOST_SHOWN = 12;

function effectOf(running: readonly Running[]): MoveEffect {
  const sums = new Map<string, { before: bigint; after: bigint }>();
  for (const { currency, before, after } of running) {
    const sum = sums.get(currency) ?? { before: 0n, after: 0n };
    sums.set(currency, { before: sum.before + BigInt(before), after: sum.after + BigInt(after) });
  }
  const moves = running.filter(({ moved }) => moved !== null).length;
  return {
    moves,
    stay: running.length - moves,
    shown: running.slice(0, MOST_SHOWN).map(({ moved: _, ...view }) => view),
    sums: [...sums].map(([currency, { before, after }]) => ({
      currency,
      before: before.toString(),
      after: after.toString(),
    })),
  };
}

/**
 * Saves a rate as a new version. Those who subscribe stay on theirs, or move at their next renewal, or on a date:
 * then each gets a letter so many days before, and its terms get a change for that day.
 */
export async function changeRate(almanac: Almanac, rateId: string, edit: Edit): Promise<MoveEffect> {
  requireGoodTerms(edit.value.terms, '/value/terms');
  const today = await businessDateOf(almanac);
  return almanac.db.transaction(async (within) => {
    const rate = await Rate.findByPk(rateId, { transaction: within, lock: within.LOCK.UPDATE });
    if (!rate) throw new RefusedCommand(404, 'There is no such rate.');
    const before = {
      name: rate.name,
      terms: rate.terms,
      taxChoice: rate.taxChoice,
      options: optionsOf(rate),
    };
    if (rate.version !== edit.version)
      throw new ConflictingEdit({
        value: before,
        version: rate.version,
        changedBy: await savedBy(almanac, rate, within),
      });
    await requireNamed(almanac, edit.value, '/value', within);
    const running = await whatMoves(almanac, rateId, edit, { within, lock: true });
    const { name, terms, taxChoice, options } = edit.value;
    const version = rate.version + 1;
    await rate.update(
      { name, terms: terms as unknown as RateTerms, taxChoice, options, version },
      { transaction: within },
    );
    await keepVersion(almanac, rate, within);
    const moving = running.filter(({ moved }) => moved !== null);
    if (edit.subscribers.kind !== 'stay' && moving.length > 0)
      await writeMoves(almanac, rate, edit.subscribers.letterDays, moving, today, within);
    const effect = effectOf(running);
    await recordDone(
      almanac,
      {
        did: 'changed a rate',
        subject: name,
        before: differenceOf(before, edit.value).before,
        after: {
          ...differenceOf(before, edit.value).after,
          subscribers: edit.subscribers,
          moved: moving.length,
        },
      },
      within,
    );
    return effect;
  });
}

/** Those who subscribe on an earlier version, moved to the newest one now that it is there. */
export type LaterMove = {
  readonly version: number;
  readonly subscribers: Exclude<Edit['subscribers'], { kind: 'stay' }>;
};

/** What moving those on earlier versions to the newest would do. Changes nothing. */
export function effectOfMove(almanac: Almanac, rateId: string, move: LaterMove): Promise<MoveEffect> {
  return almanac.db.transaction(async (within) =>
    effectOf((await whoMoves(almanac, rateId, move, { within, lock: false })).running),
  );
}

/**
 * Moves those who subscribe on an earlier version of a rate to its newest one, with a letter so many days before. Who
 * is to move already is left alone.
 */
export function moveSubscribers(almanac: Almanac, rateId: string, move: LaterMove): Promise<MoveEffect> {
  return almanac.db.transaction(async (within) => {
    const { rate, running, today } = await whoMoves(almanac, rateId, move, { within, lock: true });
    const moving = running.filter(({ moved }) => moved !== null);
    if (moving.length === 0) throw new RefusedCommand(422, 'Nobody can be moved so.');
    await writeMoves(almanac, rate, move.subscribers.letterDays, moving, today, within);
    await recordDone(
      almanac,
      {
        did: 'moved subscribers to a version of a rate',
        subject: rate.name,
        after: { version: rate.version, subscribers: move.subscribers, moved: moving.length },
      },
      within,
    );
    return effectOf(running);
  });
}

async function whoMoves(almanac: Almanac, rateId: string, move: LaterMove, { within, lock }: Looking) {
  const rate = await Rate.findByPk(rateId, {
    transaction: within,
    ...(lock ? { lock: within.LOCK.UPDATE } : {}),
  });
  if (!rate) throw new RefusedCommand(404, 'There is no such rate.');
  if (rate.version !== move.version)
    throw new RefusedCommand(
      409,
      `There is a version ${rate.version} now. Look at it before anybody is moved.`,
    );
  const { name, terms, taxChoice } = rate;
  const value = { name, terms, taxChoice, options: optionsOf(rate) } as unknown as Edit['value'];
  const edit: Edit = { version: rate.version, value, subscribers: move.subscribers };
  const running = await whatMoves(almanac, rateId, edit, { within, lock }, rate.version);
  return { rate, running, today: await businessDateOf(almanac, within) };
}

async function writeMoves(
  almanac: Almanac,
  rate: Rate,
  letterDays: number,
  moving: readonly Running[],
  today: string,
  within: Transaction,
): Promise<void> {
  const move = await almanac.db.row<{ id: string }>(
    `insert into rate_moves (rate_id, to_version, letter_days, decided_by, decided_on)
     values ($rateId, $version, $letterDays, $who, $today) returning id::text`,
    { rateId: rate.id, version: rate.version, letterDays, who: askerNow().who, today },
    within,
  );
  for (const { subscriptionId, effectiveOn, moved } of moving) {
    if (moved === null || effectiveOn === null) continue;
    await Subscription.update({ terms: moved }, { where: { id: subscriptionId }, transaction: within });
    noteAltered(within, subscriptionId);
    // A day that is no boundary may begin a new rhythm: the subscription is looked at again then.
    await almanac.db.rows(
      'update subscriptions set wake_on = least(wake_on, $effectiveOn::date) where id = $subscriptionId',
      { subscriptionId, effectiveOn },
      within,
    );
    await almanac.db.rows(
      `insert into subscription_moves (move_id, subscription_id, effective_on, letter_on)
       values ($moveId, $subscriptionId, $effectiveOn, $letterOn)`,
      {
        moveId: move?.id ?? '',
        subscriptionId,
        effectiveOn,
        letterOn: formatDay(Math.max(toDay(today), toDay(effectiveOn) - letterDays)),
      },
      within,
    );
  }
}

/** Every running subscription of a rate, with the terms that the edit would give it. */
async function whatMoves(
  almanac: Almanac,
  rateId: string,
  edit: Edit,
  { within, lock }: Looking,
  /** Only those on a version before this one, and not to move already. */
  before?: number,
): Promise<Running[]> {
  const today = await businessDateOf(almanac, within);
  const { subscribers } = edit;
  // Today's periods may be invoiced already: nobody moves before tomorrow, nor before there was a letter.
  const earliest =
    subscribers.kind === 'stay' ? today : formatDay(toDay(today) + Math.max(1, subscribers.letterDays));
  if (subscribers.kind === 'date' && subscribers.date < earliest) {
    throw new RefusedCommand(
      422,
      `With a letter ${subscribers.letterDays} days before, the first day possible is ${sayDate(earliest)}.`,
      '/subscribers/date',
    );
  }
  const rows = await almanac.db.rows<
    Subscription & {
      tax_id: string | null;
      name: string;
      variant_prices: LinePrices;
      card_prices: LinePrices;
    }
  >(
    `select s.id::text, s.terms, s.walk, s.state, ${LAW_COLUMNS}, c.name, s.extras, ${PRICE_COLUMNS}
     from subscriptions s join customers c on c.id = s.customer_id
     where s.rate_id = $rateId and s.state not in ('lapsed', 'ended')
       and ($before = 0 or s.rate_version < $before and not exists (
         select 1 from subscription_moves sm join rate_moves m on m.id = sm.move_id
         where sm.subscription_id = s.id and m.to_version >= $before))
     order by c.name, s.id ${lock ? 'for update of s' : ''}`,
    { rateId, before: before ?? 0 },
    within,
  );
  const law = await loadLaw(almanac, within);
  return rows.map((row) => {
    const facts = row as never as Parameters<Law['compile']>[0];
    const now = law.compile(facts);
    const counts = row.state === 'active' || row.state === 'overdue';
    const worth = (terms: Terms, on: string) =>
      (counts ? monthlyValue(law.compile({ ...facts, terms }), toDay(on)) : 0n).toString();
    const common = { subscriptionId: row.id, customer: row.name, currency: row.terms.currency };
    const worthNow = counts ? monthlyValue(now, toDay(today)).toString() : '0';
    const stay = (stays: string): Running => ({
      ...common,
      before: worthNow,
      after: worthNow,
      effectiveOn: null,
      stays,
      moved: null,
    });
    if (subscribers.kind === 'stay') return stay('stays on its version');
    const effectiveOn =
      subscribers.kind === 'date'
        ? subscribers.date
        : boundaryFrom(new PaymentWalk(now, row.walk ?? undefined), earliest);
    if (effectiveOn === null) return stay('ends before it could move');
    // Some days before it begins a period may be invoiced: what is invoiced stays as it is.
    if ((row.walk?.timetable?.stretch?.from ?? -Infinity) >= toDay(effectiveOn))
      return stay('is invoiced beyond that day already');
    const running = { terms: row.terms, compiled: now, walk: row.walk ?? null };
    const of = { running, extras: row.extras, prices: [row.variant_prices, row.card_prices] };
    const to = edit.value.terms as unknown as RateTerms;
    const stub = subscribers.kind === 'date' ? subscribers.stub : 'prorate';
    const changed = termsMovedOn(of, to, effectiveOn, stub);
    if (typeof changed === 'string') return stay(changed);
    return {
      ...common,
      before: worthNow,
      after: worth(changed, effectiveOn),
      effectiveOn,
      stays: null,
      moved: changed,
    };
  });
}

/** The first day on or after a day on which a full period starts. */
function boundaryFrom(walk: PaymentWalk, from: string): string | null {
  const first = toDay(from);
  for (let payment = walk.next(), n = 0; payment !== null && n < 5000; payment = walk.next(), n += 1)
    if (payment.kind === 'period' && payment.from >= first) return formatDay(payment.from);
  return null;
}

/** A subscription's terms with a change to those of a rate on a day, or why that cannot be. */
function termsMovedOn(
  of: {
    readonly running: RunningTerms;
    readonly extras: readonly ChosenExtra[];
    readonly prices: readonly (LinePrices | null)[];
  },
  to: RateTerms,
  date: string,
  stub: 'prorate' | 'full' | 'free',
): Terms | string {
  const { terms } = of.running;
  if (!('lines' in terms)) return 'is a one-off sale';
  const rate = to as Partial<RecurringTerms>;
  if (!rate.lines || !rate.interval) return 'cannot become a one-off sale';
  if (terms.currency !== to.currency) return `is charged in ${terms.currency}`;
  if ((terms.changes ?? []).some((change) => change.date >= date)) return 'has a change of its own later';
  const current = linesListedOn(terms, date);
  const left = linesLeftOn(of.running, terms, date);
  const lines = linesForRunning(to, { ...of, had: of.extras, current, left });
  const rhythm = rhythmOn(terms, date);
  const sameRhythm =
    rate.interval === rhythm.interval && isDeepStrictEqual(rate.on ?? null, rhythm.on ?? null);
  const schedule = { interval: rate.interval, ...(rate.on ? { on: rate.on } : {}), stub };
  const change = { date, lines, ...(sameRhythm ? {} : { schedule }), settle: 'none' as const };
  const moved = { ...terms, changes: [...(terms.changes ?? []), change] };
  const checked = checkTerms(moved);
  if (checked.ok) return checked.terms;
  return `cannot be changed: ${checked.faults[0]?.detail ?? 'its terms allow none'}`;
}

/** The interval and anchor in force on a day: the first ones, or those of the latest change that set others. */
function rhythmOn(terms: RecurringTerms, date: string): Pick<RecurringTerms, 'interval' | 'on'> {
  const latest = terms.changes?.findLast((change) => change.schedule !== undefined && change.date <= date);
  return latest?.schedule ?? terms;
}
