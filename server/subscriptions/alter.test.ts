import { afterAll, beforeAll, beforeEach, expect, inject, test } from 'vitest';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(() => world.end());

const each = (amount: string) => [{ name: 'Hive', price: { scheme: 'each', amount } }];
const flat = (amount: string) => [{ name: 'Row', price: { scheme: 'flat', amount } }];
const EVERYTHING = {
  cancel: 'period end',
  pause: true,
  pauseMost: 2,
  skip: true,
  quantity: true,
  quantityMost: 9,
  variant: true,
  code: true,
};
let start: string;
beforeEach(async () => {
  // Every test begins on the first of a month, so that its dates are easy to read.
  const today = await offering.today();
  const [year = 0, month = 0] = today.split('-').map(Number);
  const next = today.endsWith('-01') ? today : new Date(Date.UTC(year, month, 1)).toISOString().slice(0, 10);
  await world.turnTo(next);
  start = next;
});
/** The day so many months after the start, moved by days. */
const on = (months: number, days = 0): string => {
  const [year = 0, month = 0] = start.split('-').map(Number);
  return new Date(Date.UTC(year, month - 1 + months, 1 + days)).toISOString().slice(0, 10);
};
const alter = (id: string, asked: object) =>
  offering.done<{ says: string; endsOn: string | null }>('post', `/api/subscriptions/${id}/alter`, asked);
const ownPath = async (subscriptionId: string) => {
  const { rows } = await offering.done<{ rows: { id: string; customerId: string }[] }>(
    'get',
    '/api/subscriptions',
  );
  const customerId = rows.find(({ id }) => id === subscriptionId)?.customerId ?? '';
  const link = await CustomerLink.create({ customerId, subscriptionId, expiresOn: '2035-01-01' });
  return `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
};
const holds = async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
};
const stateOf = (id: string) =>
  offering.done<{ state: string; endedWhy: string | null; closedOn: string | null }>(
    'get',
    `/api/subscriptions/${id}`,
  );

test('a quantity changes now, with the rest of the period settled, or from the renewal; what was charged stays', async () => {
  const { rateId } = await offering.plan({}, { lines: each('30.00') });
  const now = await offering.enrolled(rateId, { quantity: 1 });
  const later = await offering.enrolled(rateId, { quantity: 1 });
  await world.turnTo(on(0, 10));
  const effect = await offering.done<object>('post', `/api/subscriptions/${now}/effect`, {
    kind: 'quantity',
    quantity: 3,
    from: 'now',
  });
  expect(effect).toMatchObject({ lines: [{ name: 'Hive, 3 in all', before: '3000', after: '9000' }] });
  expect(await offering.invoiced(now)).toEqual([`${start} 3000`]);
  await alter(now, { kind: 'quantity', quantity: 3, from: 'now' });
  await alter(later, { kind: 'quantity', quantity: 3, from: 'renewal' });
  await world.turnTo(on(1, 1));
  const days = (Date.parse(on(1)) - Date.parse(on(0, 10))) / 86_400_000;
  const whole = (Date.parse(on(1)) - Date.parse(start)) / 86_400_000;
  expect(await offering.invoiced(now)).toEqual([
    `${start} 3000`,
    `${on(0, 10)} ${Math.round((9000 * days) / whole) - Math.round((3000 * days) / whole)}`,
    `${on(1)} 9000`,
  ]);
  expect(await offering.invoiced(later)).toEqual([`${start} 3000`, `${on(1)} 9000`]);
  await holds();
});

test('a first price that is half used goes on where it was after an alteration', async () => {
  const { rateId } = await offering.plan(
    {},
    {
      lines: [
        {
          name: 'Hive',
          price: { scheme: 'each', amount: '30.00' },
          intro: { payments: 3, amount: '5.00' },
        },
      ],
    },
  );
  const id = await offering.enrolled(rateId, { quantity: 1 });
  await world.turnTo(on(1, 5));
  await alter(id, { kind: 'quantity', quantity: 2, from: 'renewal' });
  await world.turnTo(on(3, 1));
  expect(await offering.invoiced(id)).toEqual([
    `${start} 500`,
    `${on(1)} 500`,
    `${on(2)} 500`,
    `${on(3)} 6000`,
  ]);
  await holds();
});

test('it is cancelled at the end of the period, kept after all, cancelled after so many payments, or now', async () => {
  const { rateId } = await offering.plan({}, { lines: flat('12.00') });
  const [end, kept, after, now] = [
    await offering.enrolled(rateId),
    await offering.enrolled(rateId),
    await offering.enrolled(rateId),
    await offering.enrolled(rateId),
  ];
  await world.turnTo(on(0, 10));
  expect((await alter(end, { kind: 'cancel', when: 'period end' })).endsOn).toBe(on(1));
  await alter(kept, { kind: 'cancel', when: 'period end' });
  expect((await alter(after, { kind: 'cancel', when: 'after payments', payments: 3 })).endsOn).toBe(on(3));
  await alter(now, { kind: 'cancel', when: 'now' });
  await world.turnTo(on(0, 12));
  expect((await alter(kept, { kind: 'go on' })).endsOn).toBe(null);
  await world.turnTo(on(4, 1));
  expect(await offering.invoiced(end)).toEqual([`${start} 1200`]);
  expect((await offering.invoiced(kept)).length).toBe(5);
  expect((await offering.invoiced(after)).length).toBe(3);
  expect(await offering.invoiced(now)).toEqual([`${start} 1200`]);
  expect(await stateOf(end)).toMatchObject({
    state: 'ended',
    endedWhy: 'cancelled by the business',
    closedOn: on(1),
  });
  expect(await stateOf(now)).toMatchObject({ state: 'ended', closedOn: on(0, 10) });
  expect(await stateOf(kept)).toMatchObject({ state: 'active' });
  const again = await offering.ask('post', `/api/subscriptions/${end}/alter`, { kind: 'go on' });
  expect([again.status, again.body.detail]).toEqual([422, 'This subscription is over.']);
  await holds();
});

test('customers do alone what their plan leaves to them, and nothing more; instalments are left alone', async () => {
  const mayDo = { ...EVERYTHING };
  const { planId, rateId } = await offering.plan({ name: 'Own', mayDo }, { lines: each('10.00') });
  await offering.done('post', `/api/plans/${planId}/variants`, { name: 'Small' });
  const { id: large } = await offering.done('post', `/api/plans/${planId}/variants`, {
    name: 'Large',
    prices: { [rateId]: [{ scheme: 'each', amount: '25.00' }] },
  });
  const plan = await offering.done<{ variants: { id: string; name: string }[] }>(
    'get',
    `/api/plans/${planId}`,
  );
  const small = plan.variants.find(({ name }) => name === 'Small')?.id;
  const id = await offering.enrolled(rateId, { quantity: 2, variantId: small });
  await world.turnTo(on(0, 3));
  const own = await ownPath(id);
  const ask = (asked: object, path = 'alter') => offering.stranger('post', `${own}/${path}`, asked);
  const page = (await offering.stranger('get', own)).body.mine;
  expect(page).toMatchObject({
    quantity: 2,
    variantId: small,
    variants: [{ name: 'Small' }, { name: 'Large' }],
  });
  // Skips one, then has four of the large ones.
  expect((await ask({ kind: 'pause', periods: 1 }, 'effect')).body.after[0].from).toBe(on(2));
  expect((await ask({ kind: 'pause', periods: 1 })).status).toBe(201);
  expect((await ask({ kind: 'quantity', quantity: 4, from: 'renewal' })).status).toBe(201);
  expect((await ask({ kind: 'variant', variantId: large, from: 'renewal' })).body.lines).toEqual([
    { name: 'Hive, 4 in all', before: '4000', after: '10000' },
  ]);
  const tooMuch = await ask({ kind: 'quantity', quantity: 10, from: 'renewal' });
  expect(tooMuch.body.errors).toMatchObject([{ pointer: '/quantity', detail: 'At most 9.' }]);
  for (const asked of [
    { kind: 'cancel', when: 'now' },
    { kind: 'pause', periods: 3 },
    { kind: 'rate card', cardId: null, from: 'now' },
    { kind: 'go on' },
  ])
    expect((await ask(asked)).status, JSON.stringify(asked)).toBe(403);
  // Rests are counted over a year: one is taken of the two that the plan allows.
  const tooLong = await ask({ kind: 'pause', periods: 2 });
  expect([tooLong.status, tooLong.body.detail]).toEqual([
    403,
    'It may rest 2 times in a year, and 1 of these are taken. Write to us and we look at it.',
  ]);
  await world.turnTo(on(2, 1));
  expect(await offering.invoiced(id)).toEqual([`${start} 2000`, `${on(2)} 10000`]);
  expect((await ask({ kind: 'cancel', when: 'period end' })).body.endsOn).toBe(on(3));
  await world.turnTo(on(3, 1));
  expect(await stateOf(id)).toMatchObject({ state: 'ended', endedWhy: 'cancelled by the customer' });

  const paid = await offering.plan(
    { name: 'Kit', mayDo: EVERYTHING },
    { lines: [{ name: 'Kit', price: { scheme: 'instalments', total: '70.00' } }], ends: { after: 7 } },
  );
  const kit = await ownPath(await offering.enrolled(paid.rateId));
  const pause = { kind: 'pause', periods: 1 };
  expect((await offering.stranger('post', `${kit}/alter`, pause)).status).toBe(403);
  const mayRest = await offering.plan(
    { name: 'Kit that rests', mayDo: { ...EVERYTHING, instalmentsToo: true } },
    { lines: [{ name: 'Kit', price: { scheme: 'instalments', total: '70.00' } }], ends: { after: 7 } },
  );
  const rests = await ownPath(await offering.enrolled(mayRest.rateId));
  expect((await offering.stranger('post', `${rests}/alter`, pause)).status).toBe(201);
  const end = { kind: 'cancel', when: 'period end' };
  expect((await offering.stranger('post', `${rests}/alter`, end)).status).toBe(403);
  await holds();
});

test('extra lines are taken, left out, changed; answers are kept; a code counts from the next payment', async () => {
  const extra = (more: object) => ({
    currency: 'GBP',
    when: 'recurring',
    how: 'offered',
    min: 1,
    max: 1,
    byCustomer: false,
    ...more,
  });
  const extras = [
    extra({
      key: 'insurance',
      name: 'Insurance',
      how: 'required',
      price: { scheme: 'flat', amount: '2.00' },
    }),
    extra({
      key: 'jars',
      name: 'Jars',
      how: 'preselected',
      min: 2,
      max: 6,
      byCustomer: true,
      price: { scheme: 'each', amount: '3.00' },
    }),
    extra({ key: 'veil', name: 'Veil', when: 'once', max: 4, price: { scheme: 'each', amount: '8.00' } }),
  ];
  const asks = [
    { label: 'Size of the veil', kind: 'choice', choices: ['S', 'L'], required: true },
    { label: 'Born on', kind: 'date' },
  ];
  const { rateId } = await offering.plan(
    { name: 'Extras', extras, asks, mayDo: EVERYTHING },
    { lines: flat('10.00') },
  );
  const fault = async (more: object) => (await offering.enrol(rateId, more)).body.errors?.[0];
  expect(await fault({})).toMatchObject({ pointer: '/answers/Size of the veil' });
  const answers = { 'Size of the veil': 'L' };
  expect(await fault({ answers: { ...answers, 'Born on': 'soon' } })).toMatchObject({
    detail: 'Give a day.',
  });
  expect(await fault({ answers, extras: { insurance: 0 } })).toMatchObject({ detail: 'Insurance: take 1.' });
  expect(await fault({ answers, extras: { jars: 7 } })).toMatchObject({
    detail: 'Jars: take 2 to 6, or none.',
  });
  const all = await offering.enrolled(rateId, { answers, extras: { jars: 3, veil: 2 } });
  const least = await offering.enrolled(rateId, { answers, extras: { jars: 0 } });
  await world.turnTo(on(0, 5));
  expect(await offering.invoiced(all)).toEqual([`${start} ${1000 + 200 + 900 + 1600}`]);
  expect(await offering.invoiced(least)).toEqual([`${start} 1200`]);
  const own = await ownPath(all);
  await offering.stranger('post', `${own}/alter`, {
    kind: 'extra',
    key: 'jars',
    quantity: 6,
    from: 'renewal',
  });
  expect(
    (
      await offering.stranger('post', `${own}/alter`, {
        kind: 'extra',
        key: 'insurance',
        quantity: 0,
        from: 'renewal',
      })
    ).status,
  ).toBe(403);
  await alter(least, { kind: 'extra', key: 'jars', quantity: 2, from: 'renewal' });
  const { id: discountId } = await offering.done('post', '/api/discounts', {
    value: {
      ...{
        name: 'Half',
        as: 'percent',
        off: '50',
        currency: null,
        payments: 1,
        appliesTo: 'recurring',
        plans: [],
      },
      ...{ validFrom: null, validTo: null, mostUses: null, mostPerCustomer: 1, stacks: false },
    },
  });
  await offering.done('post', `/api/discounts/${discountId}/codes`, {
    kind: 'one',
    code: 'half',
    mostUses: null,
  });
  expect((await offering.stranger('post', `${own}/alter`, { kind: 'code', code: 'half' })).status).toBe(201);
  const twice = await offering.stranger('post', `${own}/alter`, { kind: 'code', code: 'half' });
  expect(twice.status).toBe(422);
  await world.turnTo(on(2, 1));
  expect((await offering.invoiced(all)).slice(1)).toEqual([`${on(1)} 1500`, `${on(2)} 3000`]);
  expect((await offering.invoiced(least)).slice(1)).toEqual([`${on(1)} 1800`, `${on(2)} 1800`]);
  await holds();
});

test('what has not begun is cancelled without a charge, unless a number of payments was agreed to', async () => {
  const joining = { lines: flat('12.00'), once: [{ name: 'Joining', amount: '30.00' }] };
  const { rateId } = await offering.plan({ name: 'Joins' }, joining, { recurringStart: { after: 'P1M' } });
  const [gone, bound] = [await offering.enrolled(rateId), await offering.enrolled(rateId)];
  await world.turnTo(on(0, 3));
  expect(await alter(gone, { kind: 'cancel', when: 'period end' })).toMatchObject({
    endsOn: on(0, 3),
    after: [],
  });
  await alter(bound, { kind: 'cancel', when: 'after payments', payments: 2 });
  await world.turnTo(on(4, 1));
  expect(await offering.invoiced(gone)).toEqual([`${start} 3000`]);
  expect(await offering.invoiced(bound)).toEqual([`${start} 3000`, `${on(1)} 1200`, `${on(2)} 1200`]);
  const quantity = { kind: 'quantity', quantity: 2, from: 'now' };
  const flatPrice = await offering.ask(
    'post',
    `/api/subscriptions/${await offering.enrolled(rateId)}/effect`,
    quantity,
  );
  expect(flatPrice.body.errors).toMatchObject([{ pointer: '/quantity' }]);
  await holds();
});

test('something paid once is added later, at once or with the next payment, up to as many as the plan allows', async () => {
  const price = { scheme: 'each', amount: '8.00' };
  const veil = { key: 'veil', name: 'Veil', currency: 'GBP', price, when: 'once', how: 'offered' };
  const extras = [{ ...veil, min: 1, max: 4, byCustomer: true }];
  const { rateId } = await offering.plan({ name: 'Later', extras }, { lines: flat('10.00') });
  const id = await offering.enrolled(rateId, { extras: { veil: 1 } });
  await world.turnTo(on(0, 3));
  const once = (quantity: number, from: string) => ({ kind: 'once', key: 'veil', quantity, from });
  expect(await alter(id, once(1, 'now'))).toMatchObject({ says: 'Veil is added and charged at once' });
  const own = await ownPath(id);
  const tooMany = await offering.stranger('post', `${own}/effect`, once(3, 'renewal'));
  expect(tooMany.body.errors).toMatchObject([
    { pointer: '/quantity', detail: 'Take 1 to 2, as 2 were taken already.' },
  ]);
  expect((await offering.stranger('post', `${own}/alter`, once(2, 'renewal'))).status).toBe(201);
  await world.turnTo(on(2, 1));
  expect(await offering.invoiced(id)).toEqual([
    ...[`${start} 1800`, `${on(0, 3)} 800`, `${on(1)} 2600`, `${on(2)} 1000`],
  ]);
  const none = await offering.ask('post', `/api/subscriptions/${id}/effect`, once(1, 'now'));
  expect(none.body.errors[0].detail).toBe('No more can be taken, as 4 were taken already.');
  await holds();
});
