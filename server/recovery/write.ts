import { onDate, sentence, type Said } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import { mayRetry, serves } from '../../core/recovery/ladder.ts';
import { toCome, type CaseStanding, type Climbed } from '../../core/recovery/stepOfCase.ts';
import type { Almanac } from '../almanac.ts';
import { linkForCase } from '../customers/link.ts';
import type { CustomerLink } from '../customers/CustomerLink.ts';
import { saidCurrentCard, writeAbout } from '../notices/occasions.ts';
import type { LetterEvent } from '../notices/templates.ts';
import type { Climbing } from './climbing.ts';
import { owedOf } from './unpaid.ts';

/** Letters that count as recovery notices: a customer gets at most one a day. */
const RECOVERY_EVENTS: readonly LetterEvent[] = [
  'payment declined',
  'payment still declined',
  'invoice overdue',
  'last reminder',
  'lapsed',
];

/** A rung that is being climbed. */
export interface RungClimbed {
  readonly rung: number;
  readonly leg: number;
  /** How the case stands after it. */
  readonly after: CaseStanding;
  readonly climbed: Climbed;
}

/** Writes to the customer on a rung; gives false where letters of this kind are switched off. */
export function writeRung(
  almanac: Almanac,
  climbing: Climbing,
  { rung, leg, after, climbed }: RungClimbed,
  within: Transaction,
): Promise<boolean> {
  const { opened, subscription, ladder } = climbing;
  const byHand = subscription.collects === 'by hand';
  const isLast = !ladder.rungs.some(
    (later, at) => at > rung && later.letter && serves(later, opened.declineClass),
  );
  const stops = isLast && ladder.finalAction !== 'leave';
  const nextRung = ladder.rungs[after.nextRung];
  const triesAgain = nextRung !== undefined && mayRetry(nextRung, opened.declineClass);
  const next = byHand
    ? sentence('can be paid', {})
    : triesAgain
      ? sentence('try again on', { date: onDate(formatDay(after.nextOn)) })
      : sentence('cannot try again', {});
  const stopped = subscription.serviceStoppedOn ? [sentence('service stopped', {})] : [];
  return writeOf(
    almanac,
    climbing,
    {
      event: rungEvent(rung, stops, byHand),
      onceKey: `case:${opened.id}:${leg === 0 ? '' : `leg:${leg}:`}rung:${rung}`,
      reason: `Recovery, step ${rung + 1} of ${ladder.rungs.length}`,
      date: formatDay(stops ? toCome(after, climbed).finalOn : after.nextOn),
      next: { all: [next, ...stopped], joined: ' ' },
    },
    within,
  );
}

/**
 * Writes the last letter to somebody who was not written to on any rung; gives false where such letters are switched off.
 * @param endsOn the day on which the ladder ends after it
 */
export function writeLast(
  almanac: Almanac,
  climbing: Climbing,
  endsOn: string,
  within: Transaction,
): Promise<boolean> {
  const { opened, businessDate } = climbing;
  const onceKey = `case:${opened.id}:leg:${opened.leg}:last:${businessDate}`;
  const reason = 'Recovery: nobody lapses in silence';
  return writeOf(almanac, climbing, { event: 'last reminder', onceKey, reason, date: endsOn }, within);
}

/** Writes about a case: what is owed, why, and the link to pay or to change the card. */
async function writeOf(
  almanac: Almanac,
  climbing: Climbing,
  {
    date,
    next,
    ...letter
  }: {
    readonly event: LetterEvent;
    readonly onceKey: string;
    readonly reason: string;
    readonly date: string;
    readonly next?: Said;
  },
  within: Transaction,
): Promise<boolean> {
  const { opened, subscription, businessDate } = climbing;
  return writeAbout(
    almanac,
    subscription,
    {
      ...letter,
      caseId: opened.id,
      linkId: (await linkOfCase(climbing, within)).id,
      says: {
        amount: await owedOf(almanac, climbing, within),
        card: await saidCurrentCard(subscription, within),
        reason: await whyUnpaid(almanac, climbing, within),
        date: onDate(date),
        ...(next === undefined ? {} : { next }),
      },
    },
    businessDate,
    within,
  );
}

function rungEvent(rung: number, stops: boolean, byHand: boolean): LetterEvent {
  if (stops && rung > 0) return 'last reminder';
  if (byHand) return 'invoice overdue';
  return rung === 0 ? 'payment declined' : 'payment still declined';
}

/** The link to the own page that the letters of a case carry. */
export function linkOfCase(
  { opened, subscription, businessDate }: Climbing,
  within: Transaction,
): Promise<CustomerLink> {
  const subject = { caseId: opened.id, customerId: subscription.customerId, subscriptionId: subscription.id };
  return linkForCase(subject, businessDate, within);
}

/** Why a case is unpaid, to follow a colon. */
export function whyUnpaid(
  almanac: Almanac,
  { opened, subscription }: Climbing,
  within: Transaction,
): Promise<Said> {
  return subscription.collects === 'by hand'
    ? Promise.resolve(sentence('invoice unpaid', {}))
    : whyDeclined(almanac, opened.id, within);
}

async function whyDeclined(almanac: Almanac, caseId: string, within: Transaction): Promise<Said> {
  const last = await almanac.db.row<{ code: string }>(
    `select a.response_code as code from attempts a join invoices i on i.id = a.invoice_id
     where i.case_id = $caseId and a.state = 'declined' order by a.id desc limit 1`,
    { caseId },
    within,
  );
  return last ? { declined: last.code } : sentence('no card to charge', {});
}

/** Whether the customer was written to about a case on an earlier day, by a letter that nobody holds back. */
export async function wroteBefore(
  almanac: Almanac,
  { opened, businessDate }: Climbing,
  within: Transaction,
): Promise<boolean> {
  const written = await almanac.db.row(
    `select 1 from letters where case_id = $id and written_on < $businessDate and state not in ('held', 'taken back')
       and not (state = 'queued' and exists (select from business where letters_held_on is not null)) limit 1`,
    { id: opened.id, businessDate },
    within,
  );
  return written !== null;
}

/** Whether letters of a case are held back, or all letters are. */
export async function isHeldBack(almanac: Almanac, caseId: string, within: Transaction): Promise<boolean> {
  const held = await almanac.db.row(
    `select where exists (select from letters where case_id = $caseId and state = 'held')
       or exists (select from business where letters_held_on is not null)`,
    { caseId },
    within,
  );
  return held !== null;
}

/** Whether the customer has got a recovery notice on this day already, of whatever case. The customer is locked. */
export async function wroteToday(
  almanac: Almanac,
  { subscription, businessDate }: Climbing,
  within: Transaction,
): Promise<boolean> {
  const written = await almanac.db.row(
    `select 1 from letters where customer_id = $customerId and written_on = $businessDate and event = any($events) limit 1`,
    { customerId: subscription.customerId, businessDate, events: RECOVERY_EVENTS },
    within,
  );
  return written !== null;
}
