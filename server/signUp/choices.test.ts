import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { refusedAt, SignUps } from '../../testing/signUps.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
let signUps: SignUps;
const flat = (amount: string) => [{ name: 'Row', price: { scheme: 'flat', amount } }];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  signUps = new SignUps(offering);
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const of = <Row extends object>(sql: string, bound: Record<string, string> = {}) =>
  world.almanac.db.rows<Row>(sql, bound);

describe('what a page leaves to customers', () => {
  test('variants, quantities, extra lines, a later start and a day of payment come to what staff would have made', async () => {
    const { planId, rateId } = await offering.plan(
      {
        name: 'Plots',
        extras: [
          {
            ...{
              key: 'water',
              name: 'Water',
              currency: 'GBP',
              when: 'recurring',
              how: 'offered',
              min: 1,
              max: 3,
            },
            ...{ byCustomer: true, price: { scheme: 'each', amount: '2.00' } },
          },
        ],
      },
      { lines: [{ name: 'Plot', price: { scheme: 'each', amount: '10.00' } }] },
    );
    const { id: variantId } = await offering.done('post', `/api/plans/${planId}/variants`, {
      ...{ name: 'Corner', prices: { [rateId]: [{ scheme: 'each', amount: '12.50' }] } },
    });
    const { key } = await signUps.page([rateId], { quantityMost: 5, startWithin: 30, billingDay: true });
    const choice = {
      rateId,
      variantId,
      quantity: 3,
      extras: { water: 2 },
      starts: '2027-01-20',
      billingDay: 1,
    };
    const message = await signUps.filledIn(key, { choice });
    expect(message.shown[0]?.dueOn).toBe('2027-01-20');
    expect((await signUps.send(key, message)).body).toMatchObject({ charged: null });
    const byStaff = await offering.enrolled(rateId, {
      ...{ variantId, quantity: 3, extras: { water: 2 }, starts: '2027-01-20', own: { billingDay: 1 } },
    });
    const [theirs] = await of<{ terms: object }>('select terms from subscriptions where id = $id', {
      id: byStaff,
    });
    expect((await signUps.joinedWith(message.customer.email)).terms).toEqual(theirs?.terms);
    for (const [to, pointer] of [
      [{ quantity: 6 }, '/choice/quantity'],
      [{ extras: { water: 4 } }, '/choice/extras/water'],
      [{ variantId: undefined }, '/choice/variantId'],
      [{ starts: '2027-02-04' }, '/choice/starts'],
    ] as const)
      expect(
        refusedAt(
          await signUps.send(key, {
            ...(await signUps.filledIn(key, { choice })),
            choice: { ...choice, ...to },
          } as never),
        ),
      ).toEqual([422, pointer]);
  });

  test('the last use of a code is taken by one of many who join at once', async () => {
    const { rateId } = await offering.plan({ name: 'Coded' }, { lines: flat('10.00') });
    const value = {
      ...{ name: 'Half', as: 'percent', off: '50', currency: null, payments: 1, appliesTo: 'recurring' },
      ...{ plans: [], validFrom: null, validTo: null, mostUses: 2, mostPerCustomer: null, stacks: false },
    };
    const { id } = await offering.done('post', '/api/discounts', { value });
    await offering.done('post', `/api/discounts/${id}/codes`, {
      kind: 'one',
      code: 'SPRING',
      mostUses: null,
    });
    const { key } = await signUps.page([rateId], { codes: true });
    const choice = { rateId, codes: ['spring'] };
    expect((await signUps.quote(key, choice)).dues.slice(0, 2).map(({ due }) => due)).toEqual([
      '500',
      '1000',
    ]);
    const messages = [];
    for (let n = 0; n < 100; n += 1) messages.push(await signUps.filledIn(key, { choice }));
    const answers = await Promise.all(messages.map((one, n) => signUps.send(key, one, `203.0.113.${n}`)));
    const statuses = answers.map(({ status }) => status).toSorted((a, b) => a - b);
    expect(statuses).toEqual([201, 201, ...Array(98).fill(422)]);
    expect(await of('select used from discounts where id = $id', { id })).toEqual([{ used: 2 }]);
    // Whoever came too late was not charged, and nothing of them is kept.
    const [kept] = await of<{ n: number }>(
      `select count(*)::int as n from customers where email = any($emails::text[])`,
      { emails: `{${messages.map(({ customer }) => customer.email).join(',')}}` },
    );
    expect(kept?.n).toBe(2);
  });

  test('who pays by invoice is asked to, and a trial may begin without a card', async () => {
    const byHand = await offering.plan(
      { name: 'By hand' },
      { lines: flat('7.00') },
      { methods: ['card', 'invoice'] },
    );
    const { key } = await signUps.page([byHand.rateId]);
    const joined = await signUps.joined(key, { pays: 'invoice', customer: { email: 'hand@post.example' } });
    expect(joined.charged).toEqual({ amount: '700', method: '', outcome: 'by hand' });
    expect(await signUps.joinedWith('hand@post.example')).toMatchObject({ collects: 'by hand' });
    const trial = await offering.plan(
      { name: 'Tried' },
      { lines: flat('7.00'), trial: { length: 'P14D' } },
      { withoutMethod: 'end' },
    );
    const page = await signUps.page([trial.rateId]);
    expect((await signUps.open(page.key)).rates[0]).toMatchObject({ methodLater: true, trial: 'P14D' });
    const later = await signUps.joined(page.key, {
      pays: 'later',
      customer: { email: 'later@post.example' },
    });
    expect([later.charged, later.trialEnds]).toEqual([null, '2027-01-18']);
    expect(await signUps.joinedWith('later@post.example')).toMatchObject({ without_method: 'end' });
    // What is due at once is not paid later.
    const paid = await offering.plan(
      { name: 'Tried for money' },
      { lines: flat('7.00'), trial: { length: 'P14D', amount: '1.00' } },
      { withoutMethod: 'end' },
    );
    const dear = await signUps.page([paid.rateId]);
    const unpaid = await signUps.send(dear.key, await signUps.filledIn(dear.key, { pays: 'later' }));
    expect(refusedAt(unpaid)).toEqual([422, '/pays']);
    const other = await signUps.filledIn(key, { pays: 'later' });
    expect(refusedAt(await signUps.send(key, other))).toEqual([422, '/pays']);
  });
});
