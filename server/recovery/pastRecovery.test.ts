import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { EVERY_DAY } from '../../core/dates/workingDay.ts';
import { sumOf, sumsBy } from '../../core/recovery/figures.ts';
import { startingPolicy, type StartingLadderKey } from '../../core/recovery/startingLadders.ts';
import { fitModel, learned } from '../../core/whatIf/model.ts';
import { replay } from '../../core/whatIf/replay.ts';
import type { Page } from '../http/list.ts';
import type { RecoveryFigures } from './figuresMessages.ts';
import { CASE_KINDS, type CaseRow } from './messages.ts';
import type { PastRecoveryView } from './pastRecoveryMessages.ts';

/*
 * What a business has lived through, played by the gateway stand-in whose cards do what they are known to do: there is money
 * from the 25th to the 3rd, a bank is away for a day, and some cards never pay.
 */
let world: World;
let offering: Offering;
const MONEY = { code: '51', moneyFrom: 25, moneyUntil: 3 };
let view: PastRecoveryView;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  for (const date of ['04', '09', '14', '18', '22']) {
    if (date !== '04') await world.turnTo(`2027-01-${date}`);
    await world.enrol([
      ...[MONEY, MONEY, MONEY, MONEY, MONEY, MONEY],
      ...[{ code: '91', firstDay: true }, { code: '91', firstDay: true }, { code: '51' }, { code: '41' }],
    ]);
  }
  await world.turnTo('2027-03-09');
  view = await offering.done<PastRecoveryView>('get', '/api/past-recovery');
}, 240_000);
afterAll(() => world.end());

test('every retry that the gateway was asked for is there once, after what it followed, and every decline once', async () => {
  const { past, currency, elsewhere } = view;
  expect([currency, elsewhere]).toEqual(['GBP', 0]);
  const counted = await world.almanac.db.row<{
    retries: number;
    collected: number;
    cases: number;
    mended: number;
  }>(
    `select (select count(*)::int from attempts where reason = 'retry' and state in ('declined', 'collected')) as retries,
       (select count(*)::int from attempts where reason = 'retry' and state = 'collected') as collected,
       (select count(*)::int from recovery_cases) as cases,
       (select count(*)::int from recovery_cases where closed_how = 'retry') as mended`,
  );
  expect(past.retries).toHaveLength(counted?.retries ?? 0);
  expect(past.retries.filter(({ collected }) => collected)).toHaveLength(counted?.collected ?? 0);
  expect(past.declines).toHaveLength(counted?.cases ?? 0);
  expect(past.declines.filter(({ outcome }) => outcome === 'retried')).toHaveLength(counted?.mended ?? 0);
  expect(past.retries.every(({ retry, daysSince }) => retry >= 1 && daysSince >= 1)).toBe(true);
  expect(new Set(past.declines.map(({ amount }) => amount))).toEqual(new Set([1000]));
  // The ladder writes on days 0, 3, 7 and 12, and ends on day 14.
  const gone = past.declines.find(
    ({ outcome, declineClass }) => outcome === 'given up' && declineClass === 'never',
  );
  expect(gone?.lettersOn.map((on) => on - gone.failedOn)).toEqual([0, 3, 7, 12]);
  expect((gone?.overOn ?? 0) - (gone?.failedOn ?? 0)).toBe(14);
  expect(JSON.stringify(view)).not.toMatch(/person|post\.example/i);
});

test('the model finds how the cards behave, and that another ladder suits them', () => {
  const { past } = view;
  const model = fitModel(past);
  const odds = learned(model, past).retries;
  const of = (value: string) => odds.find((one) => one.value === value);
  expect(of('25th–last')?.low).toBeGreaterThan(of('10th–14th')?.high ?? Infinity);
  expect(of('25th–last')?.low).toBeGreaterThan(of('15th–19th')?.high ?? Infinity);
  expect(of('the bank was away')?.low).toBeGreaterThan(1.5);
  const on = (key: StartingLadderKey) => ({ ladder: startingPolicy(key), calendar: EVERY_DAY });
  const [steady, payday] = replay(model, past.declines, [on('steady'), on('payday')], {
    draws: 300,
    seed: 1,
  });
  expect(payday?.moreThanFirst.low).toBeGreaterThan(0);
  // What was recovered lies within what it says of the ladder that they climbed.
  const recovered = past.declines.filter(
    ({ outcome }) => outcome === 'retried' || outcome === 'mended',
  ).length;
  const open = past.declines.filter(({ outcome }) => outcome === 'not known').length;
  expect(recovered + open).toBeGreaterThanOrEqual(steady?.recovered.low ?? 0);
  expect(recovered).toBeLessThanOrEqual(steady?.recovered.high ?? 0);
});

test('the figures are what was owed, paid and lost, whichever way it is summed', async () => {
  const figures = await offering.done<RecoveryFigures>('get', '/api/recovery-figures?months=3');
  expect(figures.month).toBe('2027-03');
  const [home, ...others] = figures.currencies;
  expect([home?.currency, others]).toEqual(['GBP', []]);
  const facts = home?.facts ?? [];
  const whole = sumOf(facts);
  const known = await world.almanac.db.row<{
    cases: number;
    paid: number;
    owed: number;
    lapsed: number;
    lapsedOwed: number;
  }>(
    `select (select count(*)::int from recovery_cases) as cases,
       (select sum(p.amount)::int from payments p join invoices i on i.id = p.invoice_id where i.case_id is not null) as paid,
       (select coalesce(sum(d.owed), 0)::int from open_dues d join invoices i on i.id = d.invoice_id
        join recovery_cases k on k.id = i.case_id where k.state = 'open') as owed,
       (select count(*)::int from recovery_cases where state = 'given up') as lapsed,
       (select coalesce(sum(d.owed), 0)::int from open_dues d join invoices i on i.id = d.invoice_id
        join recovery_cases k on k.id = i.case_id where k.state = 'given up') as "lapsedOwed"`,
  );
  expect(whole).toMatchObject({
    ...{ cases: known?.cases, recovered: known?.paid, atRisk: known?.owed, casesGivenUp: known?.lapsed },
    lost: known?.lapsedOwed,
  });
  for (const by of ['month', 'reason', 'ladder', 'rungs'] as const) {
    const sums = sumsBy(facts, (one) => one[by]).map(([, sum]) => sum);
    for (const what of ['cases', 'failed', 'recovered', 'atRisk', 'lost', 'casesRecovered'] as const)
      expect(
        sums.reduce((sum, one) => sum + one[what], 0),
        by,
      ).toBe(whole[what]);
  }
  // Banks that were away paid on the next day, before any rung; lost cards never did.
  const reasons = new Map(sumsBy(facts, ({ reason }) => reason));
  expect(reasons.get(CASE_KINDS.soon)).toMatchObject({ rate: 1, days: 1, lost: 0 });
  expect(reasons.get(CASE_KINDS.never)).toMatchObject({ rate: 0, recovered: 0 });
  expect((await offering.ask('get', '/api/recovery-figures?months=7')).status).toBe(422);
});

test('the board says of each open case how likely it is: a lost card less than one that lacks money, by hand not at all', async () => {
  await world.enrol([MONEY, MONEY, MONEY, MONEY, { code: '41' }]);
  await world.turnTo('2027-03-10');
  const board = await offering.done<Page<CaseRow>>('get', '/api/cases?state=open');
  const chances = (why: RegExp) =>
    board.rows.filter((row) => why.test(row.why)).map(({ chance }) => chance ?? NaN);
  const lacking = chances(/not enough money/);
  expect(lacking).toHaveLength(4);
  for (const chance of lacking) expect(chance).toBeGreaterThan(0);
  for (const chance of lacking) expect(chance).toBeLessThan(1);
  const lost = chances(/lost/);
  expect(lost).toHaveLength(1);
  expect(Math.max(...lost)).toBeLessThan(Math.min(...lacking));
  const closed = await offering.done<Page<CaseRow>>('get', '/api/cases?state=recovered');
  expect(closed.rows.every(({ chance }) => chance === null)).toBe(true);
});
