import * as fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { AccountView } from '../customers/accountMessages.ts';
import { verify } from '../verify/verify.ts';

/*
 * Two months of a business whose staff do all that can be done with money, at random and two at a time: invoices are paid by card
 * and by hand, credited, withdrawn, given up, recovered and paid back, while subscriptions change and settle. Whatever is asked
 * for, possible or not, everything that must be true is, and nothing but money moves makes money. Another seed plays another
 * two months: MONEY_SEED=7 npx vitest run server/takings/moneyPlay.test.ts
 */

const SEED = Number(process.env.MONEY_SEED ?? 20270104);
const STEPS = 140;

let world: World;
let offering: Offering;
let rates: string[];
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const taxed = (rate: string, mode: string) => ({ tax: { rate, mode } });
  const line = (name: string, amount: string) => ({ name, price: { scheme: 'each', amount } });
  const methods = ['card', 'invoice'];
  const kinds = [
    { ...taxed('20', 'inclusive'), lines: [line('Hive', '7.99')] },
    { ...taxed('8.875', 'exclusive'), lines: [line('Jar', '3.33'), line('Lid', '0.07')], interval: 'P2W' },
    { lines: [line('Row', '120.00')], terms: 'P10D' },
  ];
  rates = [];
  for (const [i, terms] of kinds.entries()) {
    // Those of the last are issued before their time, and are corrected where something changes meanwhile.
    const options = { methods, ...(i === 2 ? { issueDaysBefore: 20 } : {}) };
    rates.push(
      (await offering.plan({ name: `Plan ${i}`, mayDo: { quantity: true, quantityMost: 9 } }, terms, options))
        .rateId,
    );
  }
});
afterAll(() => world.end());

const step = fc.record({
  kind: fc.constantFrom(
    ...[
      'enrol',
      'enrol',
      'turn',
      'turn',
      'turn',
      'quantity',
      'quantity',
      'credit note',
      'credit note',
      'lines',
    ],
    ...[
      'take',
      'take',
      'charge',
      'charge',
      'write off',
      'refund',
      'refund',
      'pay out',
      'from credit',
      'in parts',
    ],
  ),
  at: fc.nat(1_000),
  share: fc.integer({ min: 1, max: 130 }),
  days: fc.integer({ min: 1, max: 9 }),
  means: fc.constantFrom('transfer', 'cash', 'cheque', 'other'),
  to: fc.constantFrom('gateway', 'credit', 'transfer', 'cash'),
});
type Step = typeof step extends fc.Arbitrary<infer S> ? S : never;

const pick = <One>(some: readonly One[], at: number): One | undefined => some[at % Math.max(1, some.length)];
const shareOf = (amount: string, share: number) => {
  const part = (BigInt(amount) * BigInt(share)) / 100n;
  return (part > 0n ? part : 1n).toString();
};
const rows = <Row extends object>(statement: string, bound = {}) =>
  world.almanac.db.rows<Row>(statement, bound);

interface Open {
  readonly id: string;
  readonly customerId: string;
  readonly owed: string;
  readonly total: string;
  readonly currency: string;
  readonly lines: number;
}
const invoices = (which: string) =>
  rows<Open>(
    `select id::text, customer_id::text as "customerId", owed::text, total::text, currency, jsonb_array_length(lines) as lines
     from invoices where ${which} order by id`,
  );

/** Does one thing, or finds nothing to do it with; gives what came of it. */
async function take(one: Step): Promise<string> {
  const { kind, at, share, means, to } = one;
  const asks = async (path: string, body: object = {}) => {
    const { status } = await offering.ask('post', path, body);
    // Whatever is asked is done, or refused in words: never a failure of ours.
    expect([200, 201, 403, 404, 409, 422], `${kind}: ${status}`).toContain(status);
    return `${kind} ${status < 300 ? 'done' : 'refused'}`;
  };
  switch (kind) {
    case 'enrol': {
      const byHand = at % 3 === 0;
      const token = `play-card-${at}-${share}`;
      if (!byHand) await world.moveCards([{ token, behaviour: at % 5 === 0 ? { code: '51' } : {} }]);
      await offering.enrol(
        pick(rates, at) ?? '',
        { quantity: 1 + (at % 4), ...(byHand ? { pays: 'invoice' } : { cardToken: token }) },
        false,
      );
      return 'enrol done';
    }
    case 'turn':
      await world.turnTo(await offering.later(one.days));
      return 'turn done';
    case 'quantity': {
      const running = await rows<{ id: string }>(
        `select id::text from subscriptions where state in ('active', 'overdue') order by id`,
      );
      const subscription = pick(running, at);
      if (!subscription) return 'nothing';
      return asks(`/api/subscriptions/${subscription.id}/alter`, {
        kind: 'quantity',
        quantity: 1 + (share % 9),
        from: 'now',
      });
    }
    case 'credit note':
    case 'lines': {
      const invoice = pick(await invoices('total > 0'), at);
      if (!invoice) return 'nothing';
      const what =
        kind === 'lines'
          ? {
              kind: 'lines',
              lines: [{ line: at % invoice.lines, amount: shareOf(invoice.total, share % 60) }],
            }
          : at % 4 === 0
            ? { kind: 'all' }
            : { kind: 'amount', amount: shareOf(invoice.total, share) };
      return asks(`/api/invoices/${invoice.id}/credit-notes`, { what, reason: 'Played' });
    }
    case 'take': {
      const open = await invoices(`owed > 0 and state in ('issued', 'part-paid', 'written off')`);
      const first = pick(open, at);
      if (!first) return 'nothing';
      const theirs = open.filter(
        ({ customerId, currency }) => customerId === first.customerId && currency === first.currency,
      );
      const owed = theirs.reduce((sum, invoice) => sum + BigInt(invoice.owed), 0n);
      const amount = shareOf(owed.toString(), share);
      const over = BigInt(amount) > owed ? BigInt(amount) - owed : 0n;
      const body = {
        means,
        currency: first.currency,
        amount,
        receivedOn: await offering.later(-(at % 4)),
        over: over.toString(),
      };
      return asks(`/api/customers/${first.customerId}/takings`, {
        ...body,
        invoices: theirs.map(({ id }) => id),
      });
    }
    case 'charge': {
      const invoice = pick(await invoices(`owed > 0 and state in ('issued', 'part-paid')`), at);
      if (!invoice) return 'nothing';
      const token = `told-${at}-${share}`;
      await world.moveCards([{ token, behaviour: at % 4 === 0 ? { code: '51' } : {} }]);
      return asks(`/api/customers/${invoice.customerId}/charges`, {
        ...{ invoices: [invoice.id], amount: invoice.owed, token },
      });
    }
    case 'write off': {
      const invoice = pick(await invoices(`owed > 0 and state in ('issued', 'part-paid')`), at);
      return invoice ? asks(`/api/invoices/${invoice.id}/write-off`, { reason: 'Played' }) : 'nothing';
    }
    case 'refund': {
      const payments = await rows<{ id: string; amount: string }>(
        `select id::text, amount::text from attempts where state = 'collected' order by id`,
      );
      const payment = pick(payments, at);
      if (!payment) return 'nothing';
      return asks(`/api/payments/${payment.id}/refund`, {
        amount: shareOf(payment.amount, share),
        to,
        reason: 'Played',
      });
    }
    case 'pay out': {
      const held = await rows<{
        customerId: string;
        currency: string;
        credit: string;
        attemptId: string | null;
      }>(
        `select b.customer_id::text as "customerId", b.currency, b.credit::text,
           (select max(a.id)::text from attempts a where a.customer_id = b.customer_id and a.state = 'collected') as "attemptId"
         from credit_balances b where b.credit > 0 order by b.customer_id, b.currency`,
      );
      const one = pick(held, at);
      if (!one) return 'nothing';
      const { customerId, currency, credit, attemptId } = one;
      const way = to === 'credit' ? 'cheque' : to;
      return asks(`/api/customers/${customerId}/pay-outs`, {
        ...{ currency, amount: shareOf(credit, share), to: way, reason: 'Played' },
        ...(way === 'gateway' && attemptId !== null ? { attemptId } : {}),
      });
    }
    case 'from credit': {
      const invoice = pick(await invoices(`owed > 0 and state in ('issued', 'part-paid')`), at);
      return invoice ? asks(`/api/invoices/${invoice.id}/credit`) : 'nothing';
    }
    case 'in parts': {
      const invoice = pick(await invoices(`owed > 0 and state in ('issued', 'part-paid')`), at);
      if (!invoice) return 'nothing';
      return asks(`/api/invoices/${invoice.id}/parts`, {
        parts: 2 + (at % 3),
        every: 'P1W',
        firstOn: await offering.later(at % 9),
      });
    }
  }
  return 'nothing';
}

test('whatever staff do with money, two at a time, every unit of it is somewhere, once', async () => {
  const done = new Map<string, number>();
  const steps = fc.sample(step, { seed: SEED, numRuns: STEPS });
  for (let i = 0; i < steps.length; i += 2) {
    // Two at once: of what they cannot both have, one is refused.
    const pair = steps.slice(i, i + 2);
    const turns = pair.some(({ kind }) => kind === 'turn' || kind === 'enrol');
    const came = turns ? [] : await Promise.all(pair.map(take));
    if (turns) for (const one of pair) came.push(await take(one));
    for (const one of came) done.set(one, (done.get(one) ?? 0) + 1);
    if (i % 10 === 0)
      for (const { rule, breaches } of await verify(world.almanac))
        expect(breaches, `${rule}, step ${i}`).toEqual([]);
  }
  await world.turnTo(await offering.later(40));
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  // What the gateway holds is what came in by it less what went back.
  const held = await world.almanac.db.row<{ books: string }>(
    `select coalesce(sum(l.amount), 0)::text as books from journal_lines l join accounts a on a.id = l.account_id where a.kind = 'clearing'`,
  );
  let gateway = 0n;
  for (const { amount, state } of await world.chargesAtGateway())
    if (state === 'collected') gateway += amount;
  for (const account of await world.almanac.gateways.connected())
    for await (const { amount, state } of world.almanac.gateways.of(account).refunds())
      if (state !== 'failed') gateway -= amount;
  expect(gateway.toString()).toBe(held?.books);
  // Every statement of account comes to what is owed less the credit at hand, and each line to the one before it.
  const standings = await rows<{ customerId: string; currency: string; owed: string }>(
    `select customer_id::text as "customerId", currency, sum(owed)::text as owed from (
       select customer_id, currency, owed from invoices where state in ('issued', 'part-paid')
       union all select customer_id, currency, -credit from credit_balances) stood
     group by customer_id, currency having sum(owed) <> 0 order by 1, 2`,
  );
  for (const { customerId, currency, owed } of standings) {
    const { body } = await offering.ask('get', `/api/customers/${customerId}/account?currency=${currency}`);
    const { opening, closing, lines } = body as AccountView;
    expect(closing, `customer ${customerId}`).toBe(owed);
    let balance = BigInt(opening);
    for (const line of lines) expect(line.balance).toBe((balance += BigInt(line.amount)).toString());
  }
  expect(standings.length).toBeGreaterThan(3);
  // It was played: most of what can be done was done.
  const kinds = [
    'quantity',
    'credit note',
    'lines',
    'take',
    'charge',
    'write off',
    'refund',
    'pay out',
    'from credit',
  ];
  expect(kinds.filter((kind) => done.has(`${kind} done`)).length, JSON.stringify([...done])).toBeGreaterThan(
    5,
  );
});
