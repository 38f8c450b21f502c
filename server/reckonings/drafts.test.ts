import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { Page } from '../http/list.ts';
import type { EnrolmentDraft, EnrolmentDraftRow } from './draftMessages.ts';

// Half-filled enrolments, and invoices of something of its own, that a colleague finds and goes on with.

let world: World;
let offering: Offering;
let rateId: string;
let ruth: ReturnType<typeof asking>;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const line = { name: 'Row', price: { scheme: 'flat', amount: '12.00' } };
  ({ rateId } = await offering.plan({}, { lines: [line] }, { methods: ['card', 'invoice'] }));
  ruth = asking(offering.app, (await signedIn(world, 'biller', 'Ruth')).cookie);
});
afterAll(() => world.end());

const PATH = '/api/enrolment-drafts';
const typed = (more: object = {}) => ({
  ...{ customerId: null, who: 'Ada Fenn', what: 'Single charges: A broken frame' },
  value: { starts: '2027-03-01', making: { lines: [{ name: 'A broken frame', amount: '35' }] }, ...more },
});
const list = async (query = '') =>
  (await offering.done<Page<EnrolmentDraftRow>>('get', `${PATH}${query}`)).rows;
const enrolment = async (draft: string) => ({
  ...{ customer: { name: 'Ada Fenn', email: `ada${draft}@post.example` }, rateId, pays: 'invoice' },
  ...{ starts: await offering.today(), draft },
});

test('a draft is found by a colleague as it was typed, saved anew, and thrown away; nothing is written over', async () => {
  const { id } = await offering.done('post', PATH, typed({ staffNote: 'Call first' }));
  const found = (await ruth('get', `${PATH}/${id}`)).body as EnrolmentDraft;
  expect(found).toMatchObject({
    ...typed({ staffNote: 'Call first' }),
    version: 1,
    savedBy: expect.any(String),
  });
  expect((await ruth('put', `${PATH}/${id}`, { ...typed({ staffNote: 'Called' }), version: 1 })).status).toBe(
    200,
  );
  // The first still has the version of before in front of them.
  const late = await offering.ask('put', `${PATH}/${id}`, { ...typed({ staffNote: 'Mine' }), version: 1 });
  expect([late.status, late.body.detail]).toEqual([409, expect.stringContaining('Ruth has changed this')]);
  expect(late.body.theirs).toMatchObject({ version: 2, value: { staffNote: 'Called' } });
  expect(await list('?search=broken')).toMatchObject([{ id, who: 'Ada Fenn', savedBy: 'Ruth' }]);
  expect(await list('?search=nothing%20like%20it')).toEqual([]);
  expect((await ruth('delete', `${PATH}/${id}`)).status).toBeLessThan(300);
  for (const method of ['get', 'delete'] as const)
    expect((await offering.ask(method, `${PATH}/${id}`)).status).toBe(404);
});

test('the latest stand first, however many are begun on one day', async () => {
  const ids: string[] = [];
  for (let n = 0; n < 11; n += 1) ids.push((await offering.done('post', PATH, typed())).id);
  expect((await list()).map(({ id }) => id)).toEqual(ids.toReversed());
  for (const id of ids) await offering.done('delete', `${PATH}/${id}`);
});

test('of two who finish the same draft one enrols, and it is gone with that', async () => {
  const { id } = await offering.done('post', PATH, typed());
  const message = await enrolment(id);
  const twice = { ...message, customer: { ...message.customer, email: 'other@post.example' } };
  const answers = await Promise.all([
    offering.ask('post', '/api/subscriptions', message),
    ruth('post', '/api/subscriptions', twice),
  ]);
  expect(answers.map(({ status }) => status).toSorted()).toEqual([201, 409]);
  expect(answers.find(({ status }) => status === 409)?.body.detail).toContain('finished this draft');
  const made = await world.almanac.db.row<{ n: number }>('select count(*)::int as n from subscriptions');
  expect(made).toEqual({ n: 1 });
  expect(await list()).toEqual([]);
  // What is refused leaves the draft as it was.
  const kept = await offering.done('post', PATH, typed());
  const bad = { ...(await enrolment(kept.id)), rateId: '999999' };
  expect((await offering.ask('post', '/api/subscriptions', bad)).status).toBeGreaterThanOrEqual(400);
  expect(await list()).toHaveLength(1);
});

test('it follows its customer, and never holds a card; who only reads sees none', async () => {
  const one = await offering.enrolled(rateId);
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${one}`);
  const { id } = await offering.done('post', PATH, { ...typed(), customerId });
  const other = await offering.enrolled(rateId);
  const to = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${other}`);
  await offering.done('post', `/api/customers/${to.customerId}/merge`, { from: customerId });
  expect(await offering.done('get', `${PATH}/${id}`)).toMatchObject({ customerId: to.customerId });
  for (const secret of [
    { card: { number: '9272' } },
    { deep: [{ bank: { iban: 'GB' } }] },
    { cardToken: 't' },
  ]) {
    const answer = await offering.ask('post', PATH, typed(secret));
    expect([answer.status, answer.body.errors[0].pointer]).toEqual([422, '/value']);
  }
  for (const bad of [
    { ...typed(), who: 'x'.repeat(201) },
    { ...typed(), customerId: '999999999' },
    typed({ staffNote: 'x'.repeat(100_001) }),
  ])
    expect((await offering.ask('post', PATH, bad)).status).toBe(422);
  const reader = asking(offering.app, (await signedIn(world, 'reader')).cookie);
  for (const path of [PATH, `${PATH}.csv`, `${PATH}/${id}`])
    expect((await reader('get', path)).status).toBe(403);
});
