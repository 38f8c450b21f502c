import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'vitest';
import { civilOf, formatDay, toDay } from '../core/dates/day.ts';
import { Business } from '../server/business/Business.ts';
import { importFiles } from '../server/imports/importFiles.ts';
import { MailRoute } from '../server/notices/mailRoute.ts';
import { Mailing } from '../server/notices/mailing.ts';
import { takeNewMethod } from '../server/recovery/newMethod.ts';
import { changeSection, readSection } from '../server/settings/settings.ts';
import { PRACTICE_CARDS } from '../standins/gateway/practiceCards.ts';
import { Offering } from './offering.ts';
import { World, type MovedCard } from './world.ts';

export const YEAR = { from: '2025-06-01', to: '2026-06-01' } as const;

/** Days of the year on which staff do something, counted from its first. */
const ACTS = { enrol: [0, 125, 225], editsLadder: 60, suspends: 100, goesOn: 112, editsAgain: 200 } as const;

/** What was there when the ladder was changed. */
export interface DoneBefore {
  readonly on: string;
  readonly attempts: readonly string[];
  readonly letters: readonly string[];
  /** The open cases, with the version that each follows. */
  readonly open: readonly { readonly id: string; readonly ladderId: string }[];
}

/** A year as it was played, with what its checks want to know beside the database. */
export interface PlayedYear {
  readonly world: World;
  readonly offering: Offering;
  /** Cards replaced just before a retry, or at the same moment: the case of each. */
  readonly replaced: readonly { readonly caseId: string; readonly on: string }[];
  readonly edits: readonly DoneBefore[];
  readonly suspended: { readonly from: string; readonly to: string };
  /** Letters that went out when it was night. */
  readonly sentAtNight: number;
}

const DEMO = join(import.meta.dirname, '..', 'demo');
const text = (name: string) => readFileSync(join(DEMO, name), 'utf8');

/**
 * Plays a year of the sample business through the real stack: its own customers, and one for every practice card on each of two
 * ladders. Cards are replaced a moment before a retry and at the same one, collecting stops for two weeks, and ladders are changed.
 */
export async function playYear(databaseUrl: string): Promise<PlayedYear> {
  const world = await World.begin(databaseUrl, { GATEWAY_TIMEOUT_MS: '400' }, true, YEAR.from);
  const offering = await Offering.of(world);
  await world.moveCards(JSON.parse(text('cards.json')) as MovedCard[]);
  const files = ['plans.json', 'customers.csv'].map((name) => ({ name, text: text(name) }));
  const { problems } = await importFiles(world.almanac, files, { dryRun: false });
  expect(problems).toEqual([]);
  await makeLadders(offering);
  const { version, value } = await readSection(world.almanac, 'mail');
  await changeSection(world.almanac, 'mail', {
    version,
    value: { ...value, quietFrom: '21:00', quietTo: '08:00' },
  });

  const edits: DoneBefore[] = [];
  const replaced: { caseId: string; on: string }[] = [];
  let sentAtNight = 0;
  const dayOf = (n: number) => formatDay(toDay(YEAR.from) + n);
  for (let n = 0; dayOf(n) < YEAR.to; n++) {
    const on = dayOf(n);
    if (ACTS.enrol.some((day) => day === n)) await enrolPractice(world, offering, n);
    if (n === ACTS.editsLadder || n === ACTS.editsAgain) edits.push(await editUsualLadder(offering, n));
    if (n === ACTS.suspends)
      await offering.done('post', '/api/suspensions', {
        ...{ customerId: null, until: dayOf(ACTS.goesOn), why: 'The yard moves' },
      });
    const due = replaced.length < 10 && n > 20 ? await retryOf(world, on, replaced) : null;
    if (due && replaced.length % 2 === 0) {
      await replaceCard(world, due, `new-card-${n}`);
      await world.turnTo(dayOf(n + 1));
    } else if (due) await Promise.all([replaceCard(world, due, `new-card-${n}`), world.turnTo(dayOf(n + 1))]);
    else await world.turnTo(dayOf(n + 1));
    if (due) replaced.push({ caseId: due.caseId, on });
    if (n % 7 === 6) {
      // In the middle of the night, and in the morning.
      sentAtNight += await sendAt(world, `${on}T02:30:00Z`);
      await sendAt(world, `${on}T10:30:00Z`);
    }
  }
  await sendAt(world, `${YEAR.to}T10:30:00Z`);
  const suspended = { from: dayOf(ACTS.suspends), to: dayOf(ACTS.goesOn) };
  return { world, offering, replaced, edits, suspended, sentAtNight };
}

/** The ladders of the sample business, for the plans that they name. */
async function makeLadders(offering: Offering): Promise<void> {
  const plans = await offering.world.almanac.db.rows<{ key: string; id: string }>(
    'select key, id::text from plans',
  );
  const { ladders } = JSON.parse(text('ladders.json')) as { ladders: { serves: { plans?: string[] } }[] };
  for (const ladder of ladders.toReversed()) {
    const named = ladder.serves.plans?.map((key) => plans.find((plan) => plan.key === key)?.id ?? '');
    const serves = { ...ladder.serves, ...(named ? { plans: named } : {}) };
    await offering.done('post', '/api/ladders', { value: { ...ladder, serves, isDefault: false } });
  }
}

/** Somebody for every practice card, on a plan of the usual ladder and on one whose retries wait for pay-day. */
async function enrolPractice(world: World, offering: Offering, n: number): Promise<void> {
  const terms = { lines: [{ name: 'Rent', price: { scheme: 'flat', amount: '30.00' } }] };
  const { rateId } = await offering.plan({ name: `Practice yard ${n}` }, terms);
  const [payday] = await world.almanac.db.rows<{ id: string }>(
    `select r.id::text from rates r join plans p on p.id = r.plan_id where p.key = 'hive-watch' and r.key = 'monthly'`,
  );
  const expires = toDay(YEAR.from) + n + 120;
  for (const [i, { behaviour, network }] of PRACTICE_CARDS.entries())
    for (const of of [rateId, payday?.id ?? '']) {
      const token = `practice-${n}-${i}-${of}`;
      // A card that cannot be given is one that goes bad only when it is charged.
      const facts = { token, network, behaviour: { ...behaviour, onlyCharges: true } };
      await world.moveCards([
        behaviour.renews === true
          ? { ...facts, expiresYear: civilOf(expires).year, expiresMonth: civilOf(expires).month }
          : facts,
      ]);
      await offering.enrolled(of, { cardToken: token });
    }
}

interface DueRetry {
  readonly caseId: string;
  readonly customerId: string;
}

/** A case whose retry is due on a day, and whose card nobody has replaced yet. */
function retryOf(
  { almanac }: World,
  on: string,
  before: readonly { readonly caseId: string }[],
): Promise<DueRetry | null> {
  return almanac.db.row<DueRetry>(
    `select c.id::text as "caseId", s.customer_id::text as "customerId"
     from recovery_cases c join subscriptions s on s.id = c.subscription_id join ladders l on l.id = c.ladder_id
     where c.state = 'open' and c.next_rung_on = $on and c.decline_class = 'wait' and c.leg = 0
       and (l.rungs -> c.next_rung ->> 'retry')::boolean and c.id <> all($before::bigint[])
     order by c.id limit 1`,
    { on, before: before.map(({ caseId }) => caseId) },
  );
}

async function replaceCard(world: World, { customerId }: DueRetry, token: string): Promise<void> {
  await world.moveCards([{ token, behaviour: {} }]);
  await takeNewMethod(world.almanac, { customerId, token, channel: 'customer' });
}

/** Changes the ladder for everybody else; gives what had been done by then. */
async function editUsualLadder(offering: Offering, n: number): Promise<DoneBefore> {
  const { almanac } = offering.world;
  const ladders = await offering.done<{ id: string; version: number; isDefault: boolean; policy: object }[]>(
    'get',
    '/api/ladders',
  );
  const usual = ladders.find(({ isDefault }) => isDefault);
  const { name, serves } = usual as unknown as { name: string; serves: object };
  const done = await doneSoFar(almanac, await offering.today());
  const letter = { letter: true, retry: false };
  const rungs = [
    { afterDays: 0, ...letter },
    { afterDays: n === ACTS.editsLadder ? 2 : 4, letter: true, retry: true },
    { afterDays: 9, letter: true, retry: true },
  ];
  await offering.done('put', `/api/ladders/${usual?.id ?? ''}`, {
    version: usual?.version,
    value: { name, serves, isDefault: true, policy: { ...usual?.policy, rungs, finalAfterDays: 13 } },
  });
  return done;
}

/** What was tried and written so far, and the cases that are open: none of it may change when a ladder does. */
export async function doneSoFar({ db }: World['almanac'], on: string): Promise<DoneBefore> {
  const said = (rows: readonly { said: string }[]) => rows.map((row) => row.said);
  return {
    on,
    attempts: said(
      await db.rows<{ said: string }>(
        `select concat_ws(' ', id, invoice_id, payment_method_id, attempted_on, reason, case_id, rung, leg) as said from attempts
         where attempted_on < $on order by id`,
        { on },
      ),
    ),
    letters: said(
      await db.rows<{ said: string }>(
        `select concat_ws(' ', id, event, written_on, case_id, subject, reason) as said from letters where written_on < $on order by id`,
        { on },
      ),
    ),
    open: await db.rows<{ id: string; ladderId: string }>(
      `select id::text, ladder_id::text as "ladderId" from recovery_cases where state = 'open' order by id`,
    ),
  };
}

/** Sends what waits as a worker would at an instant of a business in earnest: practice knows no hours. Gives how many letters to customers went out. */
async function sendAt({ almanac }: World, instant: string): Promise<number> {
  const route = new MailRoute(almanac);
  try {
    const sent = () =>
      almanac.db.row<{ n: number }>(`select count(*)::int as n from letters where state = 'sent'`);
    const before = (await sent())?.n ?? 0;
    await Business.update({ practice: false }, { where: {} });
    await new Mailing(almanac, route).round(new Date(instant));
    await Business.update({ practice: true }, { where: {} });
    return ((await sent())?.n ?? 0) - before;
  } finally {
    route.close();
  }
}
