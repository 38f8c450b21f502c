import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
import { verify } from './verify.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  await world.enrol([{}, { code: '51' }, { code: '51' }]);
  await world.turnTo('2027-01-20');
});
afterAll(() => world.end());

const broken = async () =>
  (await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0).map(({ rule }) => rule);

test('nothing is found where nothing is wrong', async () => {
  expect(await broken()).toEqual([]);
});

/** Each damage is done to a sound database, found, and mended again; constraints that would refuse it are set aside. */
const DAMAGES: readonly { rule: RegExp; aside?: string; damage: string; mend: string }[] = [
  {
    rule: /balance is its total less/,
    damage: `update invoices set collected = collected - 1 where number = 1`,
    mend: `update invoices set collected = collected + 1 where number = 1`,
  },
  {
    rule: /no gap/,
    damage: `update invoices set number = 1000 where number = 2`,
    mend: `update invoices set number = 2 where number = 1000`,
  },
  {
    rule: /dues of an invoice are its total/,
    damage: `insert into dues (invoice_id, place, due_on, amount) select id, 1, due_on, total - 1 from invoices where number = 1`,
    mend: `delete from dues`,
  },
  {
    rule: /attempt and its payment agree/,
    damage: `update attempts set state = 'declined' where state = 'collected'`,
    mend: `update attempts a set state = 'collected' from payments p where p.attempt_id = a.id`,
  },
  {
    rule: /customer's credit is the sum/,
    damage: `update subscriptions set walk = jsonb_set(walk, '{credit}', '"7"') where id = 1`,
    mend: `update subscriptions set walk = jsonb_set(walk, '{credit}', '"0"') where id = 1`,
  },
  {
    rule: /credited at most once/,
    aside: `insert into credit_notes (number, prefix, customer_id, subscription_id, invoice_id, kind, period_from, period_to, issued_on, currency,
        lines, taxes, net, tax, total, set_off, to_credit, parties_id)
      select 999, '', customer_id, subscription_id, id, 'correction', period_from, period_to, issued_on, currency, lines, taxes, net, tax, total, 0, total, parties_id
      from invoices where number = 1`,
    damage: `update credit_notes set total = total + 1, net = net + 1, to_credit = to_credit + 1 where number = 999`,
    mend: `delete from credit_notes where number = 999`,
  },
  {
    rule: /taken by hand is what it paid for/,
    damage: `insert into takings (customer_id, means, currency, amount, received_on) values (1, 'cash', 'GBP', 5, '2027-01-05')`,
    mend: `delete from takings`,
  },
  {
    rule: /paid back beyond what came in/,
    damage: `insert into refunds (customer_id, attempt_id, means, currency, amount, reason, state, idempotency_key, asked_on, settled_on)
      select a.customer_id, a.id, 'cash', 'GBP', a.amount + 1, 'damage', 'done', 'damage', '2027-01-05', '2027-01-05'
      from attempts a where a.state = 'collected' order by a.id limit 1`,
    mend: `delete from refunds`,
  },
  {
    rule: /is in the books/,
    aside:
      'alter table journal disable trigger journal_stays; create table aside as select * from journal where invoice_id = 1',
    damage: `delete from journal where invoice_id = 1`,
    mend: `insert into journal overriding system value select * from aside; drop table aside; alter table journal enable trigger journal_stays`,
  },
  {
    rule: /is the receivable account/,
    aside: 'alter table journal disable trigger journal_stays',
    damage: `update journal set amounts = array[amounts[1] + 1, amounts[2] - 1] where event = 'collected'`,
    mend: `update journal set amounts = array[amounts[1] - 1, amounts[2] + 1] where event = 'collected';
      alter table journal enable trigger journal_stays`,
  },
  {
    rule: /overdue invoice has a case/,
    damage: `update invoices set case_id = null where number = 2;
      update subscriptions set state = 'active' where id = (select subscription_id from invoices where number = 2)`,
    mend: `update invoices i set case_id = (select id from recovery_cases c where c.subscription_id = i.subscription_id) where number = 2;
      update subscriptions set state = 'lapsed' where id = (select subscription_id from invoices where number = 2)`,
  },
  {
    rule: /no case is open without a debt/,
    damage: `update recovery_cases set state = 'open', closed_on = null where id = 1; update invoices set case_id = null where case_id = 1`,
    mend: `update invoices i set case_id = 1 where subscription_id = (select subscription_id from recovery_cases where id = 1);
      update recovery_cases set state = 'given up', closed_on = '2027-01-18' where id = 1`,
  },
  {
    rule: /exactly while its case is open/,
    damage: `update subscriptions set state = 'overdue' where state = 'active'`,
    mend: `update subscriptions set state = 'active' where state = 'overdue'`,
  },
  {
    rule: /two recovery notices/,
    damage: `insert into letters (once_key, customer_id, subscription_id, event, reason, to_address, subject, fields, form_id, look_id, written_on)
      select 'damage', customer_id, subscription_id, event, reason, to_address, subject, fields, form_id, look_id, written_on
      from letters where event = 'lapsed' limit 1`,
    mend: `delete from letters where once_key = 'damage'`,
  },
  {
    rule: /notice after it was paid/,
    damage: `update letters set written_on = '2027-01-19' where id = (select min(id) from letters where case_id = 1)`,
    mend: `update letters set written_on = '2027-01-04' where id = (select min(id) from letters where case_id = 1)`,
  },
  {
    rule: /tried more often than is allowed/,
    damage: `insert into attempts (invoice_id, customer_id, payment_method_id, gateway_account_id, idempotency_key, amount, reason, channel, state,
        attempted_on, settled_at)
      select a.invoice_id, a.customer_id, a.payment_method_id, a.gateway_account_id, 'damage' || n, a.amount, 'retry', 'import', 'declined',
        a.attempted_on, now() from attempts a, generate_series(1, 15) n where a.id = (select min(id) from attempts where state = 'declined')`,
    mend: `update attempts set state = 'withdrawn' where idempotency_key like 'damage%'; delete from attempts where idempotency_key like 'damage%'`,
  },
  {
    rule: /one of its ladder/,
    damage: `insert into rungs_climbed (case_id, leg, rung, ladder_id, climbed_on, did)
      select 1, 0, 29, ladder_id, '2027-01-05', 'damage' from recovery_cases where id = 1`,
    mend: `delete from rungs_climbed where did = 'damage'`,
  },
  {
    rule: /lapsed without a letter/,
    damage: `update letters set case_id = null where case_id = 1`,
    mend: `update letters l set case_id = 1 from recovery_cases c where c.id = 1 and l.subscription_id = c.subscription_id and link_id is not null`,
  },
  {
    rule: /what the terms of its subscription come to/,
    damage: `update subscriptions set terms = jsonb_set(terms, '{lines,0,price,amount}', '"11.00"') where id = 1`,
    mend: `update subscriptions set terms = jsonb_set(terms, '{lines,0,price,amount}', '"10.00"') where id = 1`,
  },
  {
    rule: /missing from the invoices/,
    damage: `insert into days (business_date, finished_at) values ('2027-02-04', now())`,
    mend: `delete from days where business_date = '2027-02-04'`,
  },
  {
    rule: /between two methods/,
    damage: `update attempts set goes_on = true where state = 'declined' and id = (select min(id) from attempts where state = 'declined')`,
    mend: `update attempts set goes_on = false`,
  },
  {
    rule: /method of its own customer/,
    damage: `update subscriptions set own_method_id = (select id from payment_methods where customer_id = 2) where customer_id = 1`,
    mend: `update subscriptions set own_method_id = null`,
  },
  {
    rule: /has a method is as it is kept/,
    damage: `update customers set has_method = not has_method where id = 1`,
    mend: `update customers set has_method = not has_method where id = 1`,
  },
  {
    rule: /stored ahead of a subscription/,
    damage: `update subscriptions set monthly = monthly + 1 where id = 1`,
    mend: `update subscriptions set monthly = monthly - 1 where id = 1`,
  },
  {
    rule: /sums of days/,
    damage: `insert into day_sums values ('2027-01-05', 'collected', 'GBP', 0, 1)`,
    mend: `delete from day_sums where payments = 0 and amount = 1`,
  },
  {
    rule: /one charge at the gateway/,
    damage: `update attempts set idempotency_key = 'lost' where state = 'collected'`,
    mend: `update attempts set idempotency_key = (select instance from business) || ':' || invoice_id || ':renewal' where idempotency_key = 'lost'`,
  },
];

test('every rule is broken here once', async () => {
  for (const { rule } of await verify(world.almanac))
    expect(DAMAGES.filter((one) => one.rule.test(rule)).length, rule).toBe(1);
});

test.each(DAMAGES)('$rule is found', async ({ rule, aside, damage, mend }) => {
  const { db } = world.almanac;
  if (aside) await db.sequelize.query(aside);
  await db.sequelize.query(damage);
  expect((await broken()).some((found) => rule.test(found))).toBe(true);
  await db.sequelize.query(mend);
  expect(await broken()).toEqual([]);
});

test('a charge that is a second one, differs, or is none is named; one under way is not', async () => {
  const { db } = world.almanac;
  const says = async () =>
    (await verify(world.almanac)).flatMap(({ rule, breaches }) => (/one charge/.test(rule) ? breaches : []));
  const [paid] = await db.rows<{ id: string; key: string; number: string; token: string }>(
    `select a.id::text, a.idempotency_key as key, i.number::text, m.gateway_token as token
     from payments p join attempts a on a.id = p.attempt_id join invoices i on i.id = p.invoice_id
     join payment_methods m on m.id = a.payment_method_id`,
  );
  if (!paid) throw new Error('Nothing was paid.');
  const [instance] = paid.key.split(':');
  const account = (await world.almanac.gateways.connected())[0];
  if (!account) throw new Error('No account is connected.');
  const asked = {
    ...{ token: paid.token, amount: 700n, currency: 'GBP', statementText: 'FENMARSH HIVES', reference: 'x' },
    ...{
      channel: 'customer' as const,
      businessDate: '2027-01-05',
      idempotencyKey: `${instance}:by nobody here`,
    },
  };
  expect((await world.almanac.gateways.of(account).charge(asked)).kind).toBe('settled');
  expect(await says()).toEqual([
    expect.stringMatching(/^charge .* at the gateway has no payment here, or is a second one$/),
  ]);
  // The stand-in keeps it for good: from here on it is an attempt that is still asked for, which may have been charged.
  await db.rows(
    `insert into attempts (invoice_id, customer_id, payment_method_id, gateway_account_id, idempotency_key, amount, reason, channel, state, request, attempted_on)
     select invoice_id, customer_id, payment_method_id, gateway_account_id, $key, amount, reason, channel, 'under way', '{}', attempted_on
     from attempts where id = $id`,
    { key: asked.idempotencyKey, id: paid.id },
  );
  expect(await says()).toEqual([]);
  await db.rows('update payments set amount = amount + 1 where attempt_id = $id', { id: paid.id });
  expect(await says()).toEqual([
    expect.stringMatching(
      new RegExp(`^the payment of invoice ${paid.number} and its charge .* differ in amount$`),
    ),
  ]);
  await db.rows('update payments set amount = amount - 1 where attempt_id = $id', { id: paid.id });
  await db.rows(`update attempts set idempotency_key = 'lost' where id = $id`, { id: paid.id });
  expect((await says()).sort()).toEqual([
    expect.stringMatching(/^charge .* has no payment here, or is a second one$/),
    `the payment of invoice ${paid.number} has no charge at the gateway`,
  ]);
});
