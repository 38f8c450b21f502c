import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
import { inTurn, isOfSubscription } from '../customers/inTurn.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { methodsInTurn, nextMethod } from './methodsInTurn.ts';

// Which method comes first is said twice: for one subscription in code, for many in statements. Both are held against each other,
// and against the words of the rule, for customers with any methods.

let world: World;
let ids: string[];
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ids = await world.enrol([{}, {}]);
});
afterAll(() => world.end());

const STATES = ['usable', 'needs-customer', 'barred', 'replaced'] as const;
const ROLES = ['primary', 'fallback', 'own'] as const;
const method = fc.record({
  role: fc.constantFrom(...ROLES),
  state: fc.constantFrom(...STATES),
  named: fc.boolean(),
});

test('code and statements give the same methods in the same order, and it is that of the rule', async () => {
  const { db } = world.almanac;
  const [id = ''] = ids;
  const owner = (await db.row<{ customer: string; account: string }>(
    `select s.customer_id::text as customer, (select min(id)::text from gateway_accounts) as account
     from subscriptions s where id = $id`,
    { id },
  )) ?? { customer: '', account: '' };
  let n = 0;
  const made = fc.array(method, { maxLength: 6 }).map((all) =>
    // Of those in use a customer has at most one primary and one fallback.
    all.filter(
      (one, i) =>
        one.state === 'replaced' ||
        one.role === 'own' ||
        all.findIndex(({ role, state }) => role === one.role && state !== 'replaced') === i,
    ),
  );
  await fc.assert(
    fc.asyncProperty(made, async (methods) => {
      await db.rows('update subscriptions set own_method_id = null where id = $id', { id });
      await db.rows(
        `delete from mandates d using payment_methods m where m.id = d.payment_method_id and m.customer_id = $customer`,
        { customer: owner.customer },
      );
      await db.rows('delete from payment_methods where customer_id = $customer', {
        customer: owner.customer,
      });
      let own: string | null = null;
      for (const { role, state, named } of methods) {
        n += 1;
        const { id: methodId } = await PaymentMethod.create({
          ...{
            customerId: owner.customer,
            gatewayAccountId: owner.account,
            gatewayToken: `any ${n}`,
            role,
            state,
          },
          ...{
            network: 'Larkfield',
            lastFour: '4242',
            expiresYear: 2031,
            expiresMonth: 5,
            addedOn: '2027-01-04',
          },
        });
        if (named && state !== 'replaced') own = methodId;
      }
      await db.rows('update subscriptions set own_method_id = $own where id = $id', { id, own });
      const inCode = (await methodsInTurn({ customerId: owner.customer, ownMethodId: own })).map(
        (one) => one.id,
      );
      const inStatements = await db.rows<{ id: string }>(
        `select m.id::text from subscriptions s join payment_methods m on ${isOfSubscription('m', 's')}
         where s.id = $id order by ${inTurn('m', 's')}`,
        { id },
      );
      expect(inCode).toEqual(inStatements.map((one) => one.id));
      const inUse = await PaymentMethod.findAll({ where: { customerId: owner.customer } });
      const rank = (one: PaymentMethod) =>
        one.id === own ? 0 : one.role === 'primary' ? 1 : one.role === 'fallback' ? 2 : 3;
      const byRule = inUse
        .filter((one) => one.state !== 'replaced' && rank(one) < 3)
        .toSorted((a, b) => rank(a) - rank(b));
      expect(inCode).toEqual(byRule.map((one) => one.id));
      // Each is tried once, those that can be charged alone, and then there is none.
      const tried = new Set<string>();
      for (;;) {
        const next = await nextMethod(
          await methodsInTurn({ customerId: owner.customer, ownMethodId: own }),
          tried,
        );
        if (next === null) break;
        expect(next.state).toBe('usable');
        expect(tried.has(next.id)).toBe(false);
        tried.add(next.id);
      }
      expect([...tried]).toEqual(byRule.filter(({ state }) => state === 'usable').map((one) => one.id));
      // Whether there is a primary one is kept beside the customer, by whatever writes methods.
      const kept = await db.row<{ has: boolean }>(
        'select has_method as has from customers where id = $customer',
        {
          customer: owner.customer,
        },
      );
      expect(kept?.has).toBe(byRule.some(({ role }) => role === 'primary'));
    }),
    { numRuns: 60 },
  );
});
