import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { DECLINE_CLASSES, type DeclineClass } from '../../core/recovery/declineCodes.ts';
import { USUAL_MANNER, type LadderPolicy, type Rung } from '../../core/recovery/ladder.ts';
import { asking, signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { takeNewMethod } from './newMethod.ts';
import { verify } from '../verify/verify.ts';
import type { CaseDetail, CaseEffect, CaseRow } from './messages.ts';
import type { LadderRow } from './ladderMessages.ts';

let world: World;
let offering: Offering;
let reads: ReturnType<typeof asking>;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  reads = asking(offering.app, (await signedIn(world, 'reader', 'Reads')).cookie);
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const YEARLY = { interval: 'P1Y' };
const rung = (afterDays: number, more: Partial<Rung> = {}): Rung => ({
  ...{ afterDays, retry: false, letter: false, ...more },
});
const policy = (rungs: Rung[], finalAfterDays: number, more: Partial<LadderPolicy> = {}): LadderPolicy => ({
  ...{ rungs, finalAfterDays, finalAction: 'lapse', manner: USUAL_MANNER, ...more },
});
const turn = async (days: number) => world.turnTo(formatDay(toDay(await offering.today()) + days));
const plus = (date: string, days: number) => formatDay(toDay(date) + days);
const ladders = () => offering.done<LadderRow[]>('get', '/api/ladders');
const make = (name: string, its: LadderPolicy, serves: object) =>
  offering.done('post', '/api/ladders', { value: { name, policy: its, serves, isDefault: false } });
const openCase = async (subscriptionId: string) => {
  const row = await world.almanac.db.row<{ id: string }>(
    'select id::text from recovery_cases where subscription_id = $subscriptionId order by id desc limit 1',
    { subscriptionId },
  );
  return offering.done<CaseDetail>('get', `/api/cases/${row?.id}`);
};
/** The days after the first failure on which something happened, and what. */
const story = async (
  subscriptionId: string,
  kinds: readonly string[] = ['declined', 'collected', 'letter'],
) => {
  const { openedOn, moments } = await openCase(subscriptionId);
  return moments
    .filter(({ kind, isToCome }) => !isToCome && kinds.includes(kind))
    .map(({ on, kind }) => `${toDay(on) - toDay(openedOn)} ${kind}`);
};
const acts = (ids: string[], act: object) =>
  offering.done<CaseEffect[]>('post', '/api/cases/acts', { ids, act });
const effects = (ids: string[], act: object) =>
  offering.done<CaseEffect[]>('post', '/api/cases/acts/effect', { ids, act });

describe('which ladder a case climbs', () => {
  test('is the first that is for it: by decline, by way of paying, by plan and by sum; else the one for everybody', async () => {
    const [usual] = await ladders();
    const short = policy([rung(0, { letter: true })], 3, { finalAction: 'leave' });
    await make('Large sums', short, { amount: { currency: 'GBP', from: '5000', to: null } });
    await make('By hand', short, { methods: ['by hand'] });
    const { planId, rateId } = await offering.plan(
      { name: 'Its own' },
      { lines: [line('10.00')], ...YEARLY },
    );
    await make('Of one plan', short, { plans: [planId] });
    await make('Lost ones', short, { classes: ['never'], plans: [planId] });
    const dear = await offering.plan({ name: 'Dear' }, { lines: [line('60.00')], ...YEARLY });
    const byHand = await offering.plan(
      { name: 'Posted' },
      { lines: [line('10.00')], ...YEARLY },
      { methods: ['invoice'] },
    );
    await world.moveCards([
      { token: 'card-lost-in-plan', behaviour: { code: '41', onlyCharges: true } },
      { token: 'card-poor-in-plan', behaviour: { code: '51', onlyCharges: true } },
      { token: 'card-poor-and-dear', behaviour: { code: '51', onlyCharges: true } },
    ]);
    const ids = {
      'Lost ones': await offering.enrolled(rateId, { cardToken: 'card-lost-in-plan' }, false),
      'Of one plan': await offering.enrolled(rateId, { cardToken: 'card-poor-in-plan' }, false),
      'Large sums': await offering.enrolled(dear.rateId, { cardToken: 'card-poor-and-dear' }, false),
      'By hand': await offering.enrolled(byHand.rateId, { pays: 'invoice' }, false),
      [usual?.name ?? '']: (await world.enrol([{ code: '51' }], YEARLY))[0] ?? '',
    };
    await turn(6);
    for (const [name, id] of Object.entries(ids))
      expect((await openCase(id)).ladder, name).toBe(`${name}, version 1`);
    // One that is put before the others is asked before them.
    const order = (await ladders()).filter(({ isDefault }) => !isDefault);
    expect(order.map(({ name }) => name)).toEqual(['Lost ones', 'Of one plan', 'By hand', 'Large sums']);
    const first = order.map(({ id }) => id).toReversed();
    const put = await offering.done<LadderRow[]>('put', '/api/ladders/order', { ids: first });
    expect(put.map(({ name }) => name)).toEqual([
      'Large sums',
      'By hand',
      'Of one plan',
      'Lost ones',
      usual?.name,
    ]);
    expect((await offering.ask('put', '/api/ladders/order', { ids: first.slice(1) })).status).toBe(409);
    for (const { id, isDefault } of put)
      expect((await offering.ask('post', `/api/ladders/${id}/retire`, {})).status).toBe(
        isDefault ? 409 : 201,
      );
  });
});

test('what each class of decline comes to is what its ladder says, to the day: tries, letters, tasks, the service', async () => {
  const branched = policy(
    [
      rung(0, { letter: true }),
      rung(1, { retry: true, classes: ['wait', 'soon'] }),
      rung(2, { letter: true, classes: ['ask', 'never'], tellsStaff: true }),
      rung(4, { retry: true, letter: true, acts: { kind: 'pause' } }),
      rung(6, { letter: true, classes: ['never'], acts: { kind: 'task', says: 'Call them.' } }),
    ],
    9,
  );
  const usual = (await ladders()).find(({ isDefault }) => isDefault);
  const value = { name: 'Branched', policy: branched, serves: {}, isDefault: true };
  await offering.done('put', `/api/ladders/${usual?.id}`, { version: usual?.version, value });
  const [poor = '', away = '', expired = '', lost = ''] = await world.enrol(
    ['51', '91', '54', '41'].map((code) => ({ code, onlyCharges: true })),
    YEARLY,
  );
  const start = await offering.today();
  await turn(1);
  await turn(3);
  const stopped = () =>
    world.almanac.db.row<{ n: number }>(
      'select count(*)::int as n from subscriptions where service_stopped_on = $on and id = any($ids::bigint[])',
      { on: plus(start, 4), ids: [poor, away, expired, lost] },
    );
  await turn(1);
  expect(await stopped()).toEqual({ n: 4 });
  // Who pays is served again.
  await world.moveCards([{ token: 'card-that-is-good-again', behaviour: {} }]);
  const { customerId } = await openCase(expired);
  await takeNewMethod(world.almanac, { customerId, token: 'card-that-is-good-again', channel: 'staff' });
  expect(await stopped()).toEqual({ n: 3 });
  expect(await openCase(expired)).toMatchObject({ state: 'recovered', closedHow: 'new method' });
  await turn(2);
  const tasks = () =>
    world.almanac.db.rows(`select says, settled_on is null as open from needs where kind = 'recovery task'`);
  expect(await tasks()).toEqual([{ says: 'Call them. £10.00 is open.', open: true }]);
  await turn(4);
  expect(await story(poor)).toEqual([
    ...['0 declined', '0 letter', '1 declined', '4 declined', '4 letter', '9 letter'],
  ]);
  // A bank that was away is asked again on the next day, and only then written of.
  expect(await story(away)).toEqual([
    ...[
      '0 declined',
      '1 declined',
      '1 letter',
      '2 declined',
      '3 declined',
      '4 declined',
      '4 letter',
      '5 declined',
      '9 letter',
    ],
  ]);
  expect(await story(lost)).toEqual([
    '0 declined',
    '0 letter',
    '2 letter',
    '4 letter',
    '6 letter',
    '9 letter',
  ]);
  expect(await openCase(lost)).toMatchObject({ state: 'given up', closedHow: 'ladder', rung: 5 });
  expect(await tasks()).toMatchObject([{ open: false }]);
});

test('who would lapse without a letter, since the class of the case changed between them, is written to before the end', async () => {
  const usual = (await ladders()).find(({ isDefault }) => isDefault);
  const crossed = policy(
    [
      rung(0, { letter: true, classes: ['ask', 'never', 'soon'] }),
      rung(5, { letter: true, classes: ['wait'] }),
    ],
    7,
  );
  const value = { name: 'Crossed', policy: crossed, serves: {}, isDefault: true };
  await offering.done('put', `/api/ladders/${usual?.id}`, { version: usual?.version, value });
  const [id = ''] = await world.enrol([{ code: '51' }], YEARLY);
  await turn(2);
  await world.moveCards([
    { token: 'card-lost-between-letters', behaviour: { code: '43', onlyCharges: true } },
  ]);
  const { customerId } = await openCase(id);
  await takeNewMethod(world.almanac, { customerId, token: 'card-lost-between-letters', channel: 'staff' });
  await turn(6);
  expect(await story(id)).toEqual(['0 declined', '2 declined', '7 letter']);
  expect(await openCase(id)).toMatchObject({
    state: 'open',
    nextOn: plus((await openCase(id)).openedOn, 10),
  });
  await turn(3);
  expect(await story(id, ['letter'])).toEqual(['7 letter', '10 letter']);
  expect(await openCase(id)).toMatchObject({ state: 'given up', closedHow: 'ladder' });
});

test('another ladder is made the one for everybody else: the one before it is for nobody, until it says for whom', async () => {
  const before = (await ladders()).find(({ isDefault }) => isDefault);
  const value = {
    name: 'The new one',
    policy: policy([rung(0, { letter: true })], 3),
    serves: {},
    isDefault: true,
  };
  const { id } = await offering.done('post', '/api/ladders', { value });
  const [opened = ''] = await world.enrol([{ code: '51' }], YEARLY);
  await turn(1);
  expect((await openCase(opened)).ladder).toBe('The new one, version 1');
  expect((await ladders()).filter(({ isDefault }) => isDefault).map((one) => one.id)).toEqual([id]);
  // Back, so that there is one for everybody at any time; and the other, which is for nobody, goes.
  const { version = 0, name = '', policy: its } = before ?? {};
  const again = { version, value: { name, policy: its, serves: {}, isDefault: true } };
  expect((await offering.ask('put', `/api/ladders/${before?.id}`, again)).status).toBe(200);
  expect((await offering.ask('post', `/api/ladders/${id}/retire`, {})).status).toBe(201);
});

describe('an edited ladder', () => {
  test('is a new version: what is open keeps its own until somebody puts it on the new one, and nothing done is undone', async () => {
    const usual = (await ladders()).find(({ isDefault }) => isDefault);
    const slow = policy([rung(0, { letter: true }), rung(5, { retry: true, letter: true })], 9);
    const save = (its: LadderPolicy, version: number) =>
      offering.ask('put', `/api/ladders/${usual?.id}`, {
        version,
        value: { name: 'Usual', policy: its, serves: {}, isDefault: true },
      });
    expect((await save(slow, usual?.version ?? 0)).status).toBe(200);
    const [stays = '', moves = ''] = await world.enrol([{ code: '51' }, { code: '51' }], YEARLY);
    await turn(3);
    const was = await world.almanac.db.rows('select * from rungs_climbed order by case_id, leg, rung');
    const quick = policy(
      [rung(0, { letter: true }), rung(3, { retry: true }), rung(4, { retry: true, letter: true })],
      7,
    );
    const version = (usual?.version ?? 0) + 1;
    expect((await save(quick, version)).status).toBe(200);
    // Two who change one are told, with both.
    const late = await save(slow, version);
    expect(late.status).toBe(409);
    expect(late.body.theirs.value.policy.finalAfterDays).toBe(7);
    expect(await world.almanac.db.rows('select * from rungs_climbed order by case_id, leg, rung')).toEqual(
      was,
    );
    const { id } = await openCase(moves);
    const [shown] = await effects([id], { do: 'climb by', ladder: usual?.id });
    const next = plus((await openCase(moves)).openedOn, 3);
    expect(shown?.says).toContain('Then: try the card again');
    expect((await openCase(moves)).ladderVersion).toBe(version);
    await acts([id], { do: 'climb by', ladder: usual?.id });
    expect(await openCase(moves)).toMatchObject({
      nextOn: next,
      ladderVersion: version + 1,
      hasNewer: false,
    });
    expect(await openCase(stays)).toMatchObject({ ladderVersion: version, hasNewer: true });
    const again = await acts([id], { do: 'climb by', ladder: usual?.id });
    expect(again).toMatchObject([{ refused: 'It climbs this version already.' }]);
    await turn(8);
    expect(await story(moves)).toEqual([
      ...['0 declined', '0 letter', '3 declined', '4 declined', '4 letter', '7 letter'],
    ]);
    expect(await story(stays)).toEqual(['0 declined', '0 letter', '5 declined', '5 letter', '9 letter']);
    const climbed = await world.almanac.db.rows<{ leg: number; rung: number }>(
      'select leg, rung from rungs_climbed where case_id = $id order by leg, rung',
      { id },
    );
    expect(climbed.map(({ leg, rung: at }) => `${leg}:${at}`)).toEqual(['0:0', '1:1', '1:2']);
  });

  test.each<[string, object, string]>([
    ['without a name', { name: ' ' }, '/value/name'],
    ['for nobody in particular', { serves: {} }, '/value/serves'],
    ['that is silent', { policy: policy([rung(1, { retry: true })], 5) }, '/value/policy/finalAction'],
    [
      'of too many days',
      { policy: policy([rung(400, { letter: true })], 402) },
      '/value/policy/rungs/0/afterDays',
    ],
    ['whose name is taken', { name: 'usual' }, '/value/name'],
    [
      'whose sums are the wrong way round',
      { serves: { amount: { currency: 'GBP', from: '9', to: '3' } } },
      '/value/serves/amount/to',
    ],
  ])('%s is refused beside its field', async (_, wrong, pointer) => {
    const good = {
      ...{ name: 'Another', serves: { methods: ['card'] }, isDefault: false },
      policy: policy([rung(0, { letter: true })], 3),
    };
    const answer = await offering.ask('post', '/api/ladders', { value: { ...good, ...wrong } });
    expect(answer.status).toBe(422);
    expect(answer.body.errors.map((one: { pointer: string }) => one.pointer)).toContain(pointer);
  });
});

describe('what is done with a case by hand', () => {
  const poor = async () => (await world.enrol([{ code: '51' }], YEARLY))[0] ?? '';

  test('set aside: nothing comes before its day, and then the ladder goes on where it stood', async () => {
    const id = await poor();
    await turn(1);
    const found = await openCase(id);
    const until = plus(found.openedOn, 6);
    await acts([found.id], { do: 'set aside', until });
    await turn(4);
    expect(await story(id)).toEqual(['0 declined', '0 letter']);
    expect((await openCase(id)).says).toContain('Set aside until');
    await turn(9);
    // Rungs 3 and 4 of its ladder, and the end on 7, each three days later, since so long it stood still.
    expect(await story(id)).toEqual([
      ...['0 declined', '0 letter', '6 declined', '7 declined', '7 letter', '10 letter'],
    ]);
  });

  test('tried now: it is charged once, however often it is asked for; what fails is not tried by its rung on the same day', async () => {
    const id = await poor();
    await turn(1);
    await turn(2);
    const found = await openCase(id);
    const [shown] = await effects([found.id], { do: 'try' });
    expect(shown?.says).toMatch(/^Charges £10\.00 to .* now\.$/);
    const both = await Promise.all([1, 2].map(() => acts([found.id], { do: 'try' })));
    expect(both.flat().map(({ says }) => says)).toContain('Declined again.');
    expect(await story(id, ['declined'])).toEqual(['0 declined', '3 declined']);
    await turn(1);
    expect(await story(id, ['declined'])).toEqual(['0 declined', '3 declined']);
    const { moments } = await openCase(id);
    expect(moments.map(({ says }) => says)).toContain('Rung 2 of 3: not retried: it was tried on that day');
  });

  test('given up: never in silence, and not while it is being collected', async () => {
    const id = await poor();
    await turn(1);
    const found = await openCase(id);
    const fresh = await poor();
    await world.almanac.db.rows('update letters set written_on = $today where case_id = $id', {
      ...{ today: await offering.today(), id: found.id },
    });
    expect((await acts([found.id], { do: 'give up' }))[0]?.refused).toMatch(/^Nobody lapses in silence/);
    await turn(1);
    const young = await openCase(fresh);
    const done = await acts([found.id, young.id], { do: 'give up' });
    expect(done.map(({ refused }) => refused)).toEqual([null, null]);
    expect(await openCase(id)).toMatchObject({ state: 'given up', closedHow: 'given up by staff' });
    expect((await acts([found.id], { do: 'give up' }))[0]?.refused).toBe('It is closed already.');
  });

  test('written to, assigned, noted: all of it on its line of time, and the customer opens their page', async () => {
    const id = await poor();
    await turn(1);
    const found = await openCase(id);
    const [owner] = await offering.done<{ id: string; name: string }[]>('get', '/api/staff-names');
    await acts([found.id], { do: 'assign', to: owner?.id });
    await acts([found.id], { do: 'write', says: 'Is all well?' });
    await offering.done('post', `/api/cases/${found.id}/notes`, {
      kind: 'call',
      says: 'Will pay on Friday.',
    });
    const link = await CustomerLink.findOne({ where: { caseId: found.id }, rejectOnEmpty: true });
    const ownPage = (purpose: 'own' | 'view') => `/api/own/${linkToken(world.almanac, link.id, purpose)}`;
    for (const _ of [1, 2]) await offering.stranger('get', ownPage('own'));
    // Staff who look at it leave no trace of the customer.
    await offering.done('get', ownPage('view'));
    const { moments, assigned } = await openCase(id);
    expect(assigned).toBe(owner?.name);
    expect(moments.filter(({ kind }) => kind === 'visit')).toHaveLength(1);
    expect(moments.find(({ kind }) => kind === 'call')).toMatchObject({ says: 'Will pay on Friday.' });
    expect(moments.filter(({ kind }) => kind === 'letter')).toHaveLength(2);
    const mineOnly = await offering.done<{ rows: CaseRow[] }>(
      'get',
      `/api/cases?state=open&person=${owner?.id}`,
    );
    expect(mineOnly.rows.map((row) => row.id)).toEqual([found.id]);
    const [nobody] = await acts([found.id], { do: 'assign', to: '999999' });
    expect(nobody?.refused).toBe('There is no such person any more.');
  });

  test('is for those who may change something: a reader looks, and is refused', async () => {
    const [open] = (await offering.done<{ rows: CaseRow[] }>('get', '/api/cases?state=open')).rows;
    expect((await reads('get', `/api/cases/${open?.id}`)).status).toBe(200);
    for (const path of ['/api/cases/acts', '/api/cases/acts/effect'])
      expect((await reads('post', path, { ids: [open?.id], act: { do: 'give up' } })).status).toBe(403);
    expect((await reads('post', `/api/cases/${open?.id}/notes`, { kind: 'note', says: 'x' })).status).toBe(
      403,
    );
  });

  test('is found by why, by sum, by plan, by ladder and by age, and by nothing else', async () => {
    const rows = async (query: string) =>
      (await offering.done<{ rows: CaseRow[] }>('get', `/api/cases?${query}`)).rows;
    const all = await rows('');
    expect((await rows('least=5000')).every(({ owed }) => BigInt(owed) >= 5000n)).toBe(true);
    const byHand = await rows('kind=by%20hand');
    expect(byHand.length).toBeGreaterThan(0);
    expect(byHand.every(({ plan }) => plan === 'Posted')).toBe(true);
    let kinds = byHand.length;
    for (const kind of DECLINE_CLASSES as DeclineClass[]) kinds += (await rows(`kind=${kind}`)).length;
    expect(kinds).toBe(all.length);
    const [old] = all.toSorted((a, b) => (a.openedOn < b.openedOn ? -1 : 1));
    const aged = await rows(`dated=opened&until=${old?.openedOn}`);
    expect(aged.every(({ openedOn }) => openedOn === old?.openedOn)).toBe(true);
    expect((await offering.ask('get', "/api/cases?plan=1';drop")).status).toBe(422);
  });
});

function line(amount: string) {
  return { name: 'Row', price: { scheme: 'flat', amount } };
}
