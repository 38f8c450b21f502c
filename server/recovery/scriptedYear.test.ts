import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { meaningOf, type DeclineClass } from '../../core/recovery/declineCodes.ts';
import { isTriable, mayRetry, MOST_ATTEMPTS, serves, type LadderPolicy } from '../../core/recovery/ladder.ts';
import { openStanding, toCome } from '../../core/recovery/stepOfCase.ts';
import { doneSoFar, playYear, YEAR, type PlayedYear } from '../../testing/scriptedYear.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { verify } from '../verify/verify.ts';

/*
 * A year of the sample business with all practice cards, through the real stack; then what must be true of it is asked of the
 * database, the gateway's own record and the mail that was taken.
 */

let year: PlayedYear;
beforeAll(async () => {
  year = await playYear(inject('databaseUrl'));
}, 900_000);
afterAll(() => year?.world.end());

const rows = <Row extends object>(sql: string, bound: Record<string, string | string[]> = {}) =>
  year.world.almanac.db.rows<Row>(sql, bound);

const RECOVERY = ['payment declined', 'payment still declined', 'invoice overdue', 'last reminder', 'lapsed'];

test('the books are as they must be', async () => {
  const findings = await verify(year.world.almanac);
  expect(findings.filter(({ breaches }) => breaches.length > 0)).toEqual([]);
  expect(findings.length).toBeGreaterThan(10);
});

test('every invoice that failed belongs to one case, and every case to one that failed', async () => {
  expect(
    await rows(
      `select i.id from invoices i where i.case_id is null
         and exists (select from attempts a where a.invoice_id = i.id and a.state = 'declined' and a.reason = 'renewal')`,
    ),
  ).toEqual([]);
  expect(
    await rows(
      `select c.id from recovery_cases c where not exists (
         select from invoices i where i.case_id = c.id
           and (exists (select from attempts a where a.invoice_id = i.id and a.state = 'declined') or i.due_on < c.opened_on
             or not exists (select from attempts a where a.invoice_id = i.id)))`,
    ),
  ).toEqual([]);
  const [{ cases = 0, recovered = 0 } = {}] = await rows<{ cases: number; recovered: number }>(
    `select count(*)::int as cases, count(*) filter (where state = 'recovered')::int as recovered from recovery_cases`,
  );
  // The year has enough in it to tell anything.
  expect(cases).toBeGreaterThan(45);
  expect(recovered).toBeGreaterThan(15);
});

interface CaseRow {
  readonly id: string;
  readonly openedOn: string;
  readonly closedOn: string | null;
  readonly state: string;
  readonly declineClass: DeclineClass;
  readonly policy: LadderPolicy;
  readonly codes: readonly string[];
  readonly attempts: readonly string[];
  readonly letters: readonly string[];
  readonly plain: boolean;
}

const CASES = `
  select c.id::text, c.opened_on as "openedOn", c.closed_on as "closedOn", c.state, c.decline_class as "declineClass",
    json_build_object('rungs', l.rungs, 'finalAction', l.final_action, 'finalAfterDays', l.final_after_days, 'manner', l.manner) as policy,
    array(select distinct a.response_code from attempts a join invoices i on i.id = a.invoice_id
          where i.case_id = c.id and a.state = 'declined') as codes,
    array(select distinct a.attempted_on::text from attempts a where a.case_id = c.id and a.reason = 'retry' order by 1) as attempts,
    array(select distinct m.written_on::text from letters m where m.case_id = c.id and m.event = any($recovery) and m.event <> 'lapsed'
          order by 1) as letters,
    -- Nobody and nothing came between: no new card, no stop of collecting, no second case of the same customer meanwhile.
    c.leg = 0 and c.waited = 0 and s.collects = 'automatic'
      and not (c.opened_on <= $to and coalesce(c.closed_on, 'infinity') >= $from)
      and not exists (select from payment_methods m where m.customer_id = s.customer_id and m.added_on > c.opened_on
                        and m.added_on <= coalesce(c.closed_on, 'infinity'))
      and not exists (select from recovery_cases o join subscriptions t on t.id = o.subscription_id
                      where t.customer_id = s.customer_id and o.id <> c.id and o.opened_on <= coalesce(c.closed_on, 'infinity')
                        and coalesce(o.closed_on, 'infinity') >= c.opened_on) as plain
  from recovery_cases c join ladders l on l.id = c.ladder_id join subscriptions s on s.id = c.subscription_id
  order by c.id`;

test('the line of time of every case is what its ladder says for its class, to the day', async () => {
  const { from, to } = year.suspended;
  const all = await rows<CaseRow>(CASES, { recovery: RECOVERY, from, to });
  const calendar = (await loadLaw(year.world.almanac)).homeWorkingDays();
  const checked = new Map<DeclineClass, number>();
  for (const one of all) {
    const classes = new Set(one.codes.map((code) => meaningOf(code).class));
    // Where one answer was of another kind than the next, the ladder is climbed for both in turn: the oracle of its own test holds that.
    const [declineClass] = classes;
    if (!one.plain || classes.size !== 1 || declineClass === undefined) continue;
    const said = saidBy(one.policy, declineClass, one.openedOn, calendar);
    const until = one.closedOn ?? YEAR.to;
    const before = (dates: readonly string[]) => dates.filter((on) => on < until);
    const what = `case ${one.id}, ${declineClass}, opened ${one.openedOn}, ${one.state} ${one.closedOn ?? ''}`;
    expect({ what, on: before(one.attempts) }).toEqual({ what, on: before(said.attempts) });
    expect({ what, on: before(one.letters) }).toEqual({ what, on: before(said.letters) });
    // On the day on which it was closed at most what was due then, and nothing after it.
    for (const on of one.attempts.filter((date) => date >= until))
      expect([what, ...said.attempts]).toContain(on);
    expect(
      one.letters.filter((on) => on > until),
      what,
    ).toEqual([]);
    if (one.state === 'given up') expect([what, one.closedOn]).toEqual([what, said.finalOn]);
    else if (one.closedOn === null) expect(said.finalOn >= YEAR.to, what).toBe(true);
    checked.set(declineClass, (checked.get(declineClass) ?? 0) + 1);
  }
  const sum = [...checked.values()].reduce((total, n) => total + n, 0);
  expect([...checked.keys()].toSorted()).toEqual(['ask', 'never', 'soon', 'wait']);
  expect(sum / all.length, JSON.stringify([...checked])).toBeGreaterThan(0.5);
});

/** What a ladder says: by plain addition where it waits for nothing, otherwise as the margin of its editor shows it. */
function saidBy(
  policy: LadderPolicy,
  declineClass: DeclineClass,
  openedOn: string,
  calendar: ReturnType<Awaited<ReturnType<typeof loadLaw>>['homeWorkingDays']>,
): { attempts: string[]; letters: string[]; finalOn: string } {
  const opened = toDay(openedOn);
  const { manner, rungs, finalAfterDays } = policy;
  const isPlain = manner.payDays.length === 0 && !manner.workingDays && declineClass !== 'soon';
  if (isPlain) {
    const of = rungs.filter((rung) => serves(rung, declineClass));
    const on = (chosen: typeof of) => chosen.map(({ afterDays }) => formatDay(opened + afterDays));
    return {
      attempts: on(of.filter((rung) => rung.retry && isTriable(declineClass))),
      letters: on(of.filter((rung) => rung.letter)),
      finalOn: formatDay(opened + finalAfterDays),
    };
  }
  const climbed = { ladder: policy, calendar };
  const standing = openStanding(climbed, declineClass, opened, {
    practice: true,
    dayAfter: () => opened + 1,
  });
  const coming = toCome(standing, climbed);
  const at = coming.rungs.flatMap(({ rung, on }) => {
    const does = rungs[rung];
    return does ? [{ does, on: formatDay(on) }] : [];
  });
  const asked = standing.retryOn === null ? [] : [formatDay(standing.retryOn)];
  return {
    attempts: [
      ...new Set([...asked, ...at.flatMap(({ does, on }) => (mayRetry(does, declineClass) ? [on] : []))]),
    ],
    letters: at.flatMap(({ does, on }) => (does.letter ? [on] : [])),
    finalOn: formatDay(coming.finalOn),
  };
}

test('nobody got two letters of recovery on a day, or one after it was paid, or any at night', async () => {
  expect(
    await rows(
      `select customer_id, written_on, count(*) from letters where event = any($recovery) and event <> 'lapsed' and contact_id is null
       group by 1, 2 having count(*) > 1`,
      { recovery: RECOVERY },
    ),
  ).toEqual([]);
  expect(
    await rows(
      `select l.id, l.event, l.written_on, c.closed_on from letters l join recovery_cases c on c.id = l.case_id
       where l.event = any($recovery) and c.state = 'recovered' and l.written_on > c.closed_on`,
      { recovery: RECOVERY },
    ),
  ).toEqual([]);
  expect(year.sentAtNight).toBe(0);
  const [{ waiting = -1, sent = 0 } = {}] = await rows<{ waiting: number; sent: number }>(
    `select count(*) filter (where state = 'queued')::int as waiting, count(*) filter (where state = 'sent')::int as sent from letters`,
  );
  // All of them went out by day, each once.
  expect(waiting).toBe(0);
  const ids = year.world.mail().flatMap((mail) => /^Message-ID:\s*<(letter-[^>]+)>/im.exec(mail)?.[1] ?? []);
  expect([new Set(ids).size, ids.length]).toEqual([sent, sent]);
  expect(sent).toBeGreaterThan(500);
});

test('nothing is charged after never, and no invoice is tried more than fifteen times in thirty days', async () => {
  const attempts = await rows<{
    id: string;
    method: string;
    invoice: string;
    on: string;
    code: string | null;
  }>(
    `select id::text, payment_method_id::text as method, invoice_id::text as invoice, attempted_on as on, response_code as code
     from attempts order by id`,
  );
  const never = new Map<string, string>();
  const byInvoice = new Map<string, number[]>();
  for (const { id, method, invoice, on, code } of attempts) {
    expect(
      never.get(method),
      `attempt ${id}: its card was refused for good on ${never.get(method) ?? ''}`,
    ).toBeUndefined();
    if (code !== null && meaningOf(code).class === 'never') never.set(method, on);
    byInvoice.set(invoice, [...(byInvoice.get(invoice) ?? []), toDay(on)]);
  }
  expect(never.size).toBeGreaterThan(1);
  for (const days of byInvoice.values())
    for (const day of days)
      expect(
        days.filter((other) => other >= day && other < day + MOST_ATTEMPTS.days).length,
      ).toBeLessThanOrEqual(MOST_ATTEMPTS.attempts);
});

test('a ladder that is changed changes nothing that was done, and open cases follow the version they began with', async () => {
  expect(year.edits).toHaveLength(2);
  for (const { on, attempts, letters, open } of year.edits) {
    const now = await doneSoFar(year.world.almanac, on);
    expect(now.attempts).toEqual(attempts);
    expect(now.letters).toEqual(letters);
    expect(attempts.length + letters.length).toBeGreaterThan(20);
    const ladders = await rows<{ id: string; ladderId: string }>(
      'select id::text, ladder_id::text as "ladderId" from recovery_cases where id = any($ids::bigint[]) order by id',
      { ids: open.map(({ id }) => id) },
    );
    expect(ladders).toEqual(open);
  }
});

test('while collecting was stopped nothing was tried and nobody was written to about a case', async () => {
  const { from, to } = year.suspended;
  const within = 'between $from and $to::date - 1';
  expect(
    await rows(
      `select id, reason from attempts where attempted_on ${within} and reason in ('renewal', 'retry')`,
      {
        ...{ from, to },
      },
    ),
  ).toEqual([]);
  expect(
    await rows(`select id, event from letters where written_on ${within} and event = any($recovery)`, {
      from,
      to,
      recovery: RECOVERY,
    }),
  ).toEqual([]);
});

test('a card replaced just before a retry, or at the same moment, is charged once', async () => {
  expect(year.replaced.length).toBeGreaterThan(7);
  for (const { caseId, on } of year.replaced) {
    const collected = await rows<{ invoice: string; n: number; state: string }>(
      `select i.id::text as invoice, i.state, count(a.id) filter (where a.state = 'collected')::int as n
       from invoices i left join attempts a on a.invoice_id = i.id where i.case_id = $caseId group by i.id`,
      { caseId },
    );
    expect(collected.length).toBeGreaterThan(0);
    for (const { n, state, invoice } of collected) expect([invoice, state, n]).toEqual([invoice, 'paid', 1]);
    const [closed] = await rows<{ state: string; on: string }>(
      'select state, closed_on as on from recovery_cases where id = $caseId',
      { caseId },
    );
    expect(closed).toEqual({ state: 'recovered', on });
  }
  // The gateway's own record knows of one charge for each payment, and of no other.
  const charges = (await year.world.chargesAtGateway()).filter(({ state }) => state === 'collected');
  const [{ n = 0 } = {}] = await rows<{ n: number }>(
    `select count(*)::int as n from attempts where state = 'collected'`,
  );
  expect(charges.length).toBe(n);
  expect(new Set(charges.map(({ idempotencyKey }) => idempotencyKey)).size).toBe(charges.length);
});
