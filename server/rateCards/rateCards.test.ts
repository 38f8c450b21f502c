import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
let rateId = '';
let planId = '';
let large = '';

const perUnit = (amount: string) => ({ scheme: 'each', amount });

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ planId, rateId } = await offering.plan(
    { name: 'Hives' },
    { lines: [{ name: 'Hive', price: perUnit('10.00'), intro: { payments: 1, amount: '1.00' } }] },
  ));
  ({ id: large } = await offering.done('post', `/api/plans/${planId}/variants`, {
    name: 'Large',
    prices: { [rateId]: [perUnit('20.00')] },
  }));
  await offering.done('post', `/api/plans/${planId}/variants`, { name: 'Small' });
});
afterAll(() => world.end());

const card = (more: object) => ({
  value: {
    name: 'Card',
    givenBy: 'hand',
    validFrom: null,
    validTo: null,
    prices: [{ rateId, variantId: null, prices: [perUnit('8.00')] }],
    ...more,
  },
});
const variantNamed = async (name: string) =>
  (
    await offering.done<{ variants: { id: string; name: string }[] }>('get', `/api/plans/${planId}`)
  ).variants.find((one) => one.name === name)?.id ?? '';

test('a variant must be chosen, and has its own prices', async () => {
  const refused = await offering.enrol(rateId, { quantity: 2 });
  expect(refused.body.errors).toMatchObject([
    { pointer: '/variantId', detail: 'At this rate, choose one of: Large, Small.' },
  ]);
  const small = await offering.enrolled(rateId, { quantity: 2, variantId: await variantNamed('Small') });
  const big = await offering.enrolled(rateId, { quantity: 2, variantId: large });
  await world.turnTo('2027-02-05');
  expect(await offering.invoiced(small)).toEqual(['2027-01-04 100', '2027-02-04 2000']);
  expect(await offering.invoiced(big)).toEqual(['2027-01-04 4000', '2027-02-04 4000']);
});

test('a group has its card by itself at enrolment; the variant has its own price on it; others are refused', async () => {
  const { id } = await offering.done('post', '/api/rate-cards', {
    ...card({
      name: 'Societies',
      givenBy: 'group',
      group: 'Allotment societies',
      prices: [
        { rateId, variantId: null, prices: [perUnit('8.00')] },
        { rateId, variantId: large, prices: [perUnit('15.00')] },
      ],
    }),
  });
  const small = await variantNamed('Small');
  const member = await offering.enrolled(rateId, {
    group: 'allotment societies',
    quantity: 3,
    variantId: small,
  });
  const memberLarge = await offering.enrolled(rateId, {
    group: 'Allotment Societies',
    quantity: 3,
    variantId: large,
  });
  const other = await offering.enrol(rateId, { quantity: 3, variantId: small, rateCardId: id });
  expect(other.body.errors[0].detail).toBe('This rate card is for a group that the customer is not in.');
  await world.turnTo('2027-02-06');
  expect(await offering.invoiced(member)).toEqual(['2027-02-05 2400']);
  expect(await offering.invoiced(memberLarge)).toEqual(['2027-02-05 4500']);
});

test('a code gives a card within its days alone', async () => {
  const small = await variantNamed('Small');
  const from = { validFrom: '2027-02-10', validTo: '2027-02-12' };
  const made = await offering.done(
    'post',
    '/api/rate-cards',
    card({ name: 'Spring', givenBy: 'code', code: 'spring-card', ...from }),
  );
  const taken = await offering.ask(
    'post',
    '/api/rate-cards',
    card({ name: 'Other', givenBy: 'code', code: 'SPRING-CARD' }),
  );
  expect(taken.body.errors).toMatchObject([{ pointer: '/code', detail: 'This code is taken already.' }]);
  const says = async () =>
    (await offering.enrol(rateId, { variantId: small, codes: ['spring-card'] })).body.errors?.[0]?.detail;
  expect(await says()).toBe('The rate card Spring can be taken from Wed 10 Feb 2027.');
  await world.turnTo('2027-02-11');
  const id = await offering.enrolled(rateId, { quantity: 5, variantId: small, codes: ['Spring-Card'] });
  await world.turnTo('2027-02-12');
  expect(await says()).toBe('The rate card Spring cannot be taken any more.');
  await world.turnTo('2027-03-12');
  // Those who have it keep it.
  expect(await offering.invoiced(id)).toEqual(['2027-02-11 4000', '2027-03-11 4000']);
  const { rows } = await offering.done<{ rows: { id: string; taken: number }[] }>('get', '/api/rate-cards');
  expect(rows.find((one) => one.id === made.id)?.taken).toBe(1);
});

test('a card is shown side by side for those who run already, and applying it is all there is to do', async () => {
  const small = await variantNamed('Small');
  const id = await offering.enrolled(rateId, { quantity: 4, variantId: small });
  const gone = await offering.enrolled(rateId, { quantity: 4, variantId: small });
  await world.turnTo('2027-03-20');
  await offering.done('post', `/api/subscriptions/${gone}/alter`, { kind: 'cancel', when: 'now' });
  const { id: cardId } = await offering.done('post', '/api/rate-cards', card({ name: 'By hand' }));
  const candidates = await offering.done<{ subscriptionId: string }[]>(
    'get',
    `/api/rate-cards/${cardId}/candidates`,
  );
  expect(candidates.find(({ subscriptionId }) => subscriptionId === id)).toMatchObject({
    before: '4000',
    after: '3200',
    effectiveOn: '2027-04-12',
    refused: null,
  });
  const applied = await offering.done<object[]>('post', `/api/rate-cards/${cardId}/apply`, {
    subscriptions: [id, gone],
    from: 'renewal',
  });
  expect(applied).toMatchObject([{ refused: null }, { refused: 'This subscription is over.' }]);
  await world.turnTo('2027-04-13');
  expect((await offering.invoiced(id)).slice(-1)).toEqual(['2027-04-12 3200']);
  const altered = `l.subscription_id = $id and l.event = 'subscription altered'`;
  const letters = await lettersWhere(world.almanac, altered, { id });
  expect(letters.map(({ plain }) => /prices of By hand from Mon 12 Apr 2027/.test(plain))).toEqual([true]);
  // A new version of the rate leaves the card's prices to those who have them.
  const plan = await offering.done<{ rates: { version: number; terms: { lines: object[] } }[] }>(
    'get',
    `/api/plans/${planId}`,
  );
  const rate = plan.rates[0];
  await offering.done('put', `/api/rates/${rateId}`, {
    version: rate?.version,
    value: { name: 'Only', terms: { ...rate?.terms, lines: [{ name: 'Hive', price: perUnit('11.00') }] } },
    subscribers: { kind: 'renewal', letterDays: 0 },
  });
  await world.turnTo('2027-05-13');
  expect((await offering.invoiced(id)).slice(-1)).toEqual(['2027-05-12 3200']);
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});

test('prices that cannot be computed, and two hands on one card, are refused beside their field', async () => {
  const bad = await offering.ask(
    'post',
    '/api/rate-cards',
    card({ name: 'Bad', prices: [{ rateId, variantId: null, prices: [perUnit('1.5.0')] }] }),
  );
  expect(bad.body.errors[0].pointer).toBe('/value/prices/0/prices/0/amount');
  const none = await offering.ask(
    'post',
    '/api/rate-cards',
    card({ name: 'None', prices: [{ rateId, variantId: null, prices: [null] }] }),
  );
  expect(none.body.errors[0].pointer).toBe('/value/prices');
  const { id } = await offering.done('post', '/api/rate-cards', card({ name: 'Twice' }));
  await offering.done('put', `/api/rate-cards/${id}`, { version: 1, ...card({ name: 'Thrice' }) });
  const late = await offering.ask('put', `/api/rate-cards/${id}`, { version: 1, ...card({ name: 'Late' }) });
  expect([late.status, late.body.theirs.value.name, late.body.theirs.changedBy]).toEqual([
    409,
    'Thrice',
    'owner',
  ]);
});
