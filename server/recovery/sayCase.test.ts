import fc from 'fast-check';
import { expect, test } from 'vitest';
import { DECLINE_CLASSES } from '../../core/recovery/declineCodes.ts';
import { isFor, type Chosen } from './chooseLadder.ts';
import { CLOSED_HOW, type ClosedHow } from './closedHow.ts';
import { LADDER_METHODS, servesSchema, type Serves } from './ladderMessages.ts';
import { sayCase, sayRung, sayWhy } from './sayCase.ts';
import { sayMoment, type MomentRow } from './sayMoment.ts';

test('how a case stands is said in one sentence, and who pays by hand is never told of a card', () => {
  const of = {
    closedHow: null,
    declineClass: 'wait',
    collects: 'automatic',
    asideUntil: null,
    next: 'write',
  } as const;
  expect(sayCase({ ...of, state: 'open' })).toBe('Next: write.');
  expect(sayCase({ ...of, state: 'open', declineClass: 'never', asideUntil: '2027-01-20' })).toBe(
    'Set aside until Wed 20 Jan 2027. Only the customer can mend this card. Next: write.',
  );
  expect(sayCase({ ...of, state: 'open', declineClass: 'ask', collects: 'by hand' })).toBe('Next: write.');
  for (const how of Object.keys(CLOSED_HOW) as ClosedHow[])
    expect(sayCase({ ...of, state: 'recovered', closedHow: how })).toBe(`Recovered: ${CLOSED_HOW[how]}.`);
  expect(sayCase({ ...of, state: 'given up' })).toBe('Given up.');
  const rung = { afterDays: 3, retry: true, letter: true, acts: { kind: 'task', says: 'Call.' } } as const;
  expect(sayRung(rung, 'wait', 'automatic')).toBe('try the card again, write, task: Call.');
  expect(sayRung(rung, 'wait', 'by hand')).toBe('write, task: Call.');
  expect(sayRung(rung, 'never', 'automatic')).toBe('write, task: Call.');
  expect(sayRung({ ...rung, letter: false, acts: { kind: 'pause' } }, 'ask', 'automatic')).toBe(
    'stop the service',
  );
  expect(sayWhy(null, 'by hand')).toBe('the invoice has not been paid');
  expect(sayWhy(null, 'automatic')).toBe('there is no card to charge');
  expect(sayWhy('51', 'automatic')).toBe('not enough money in the account');
});

test('every kind of moment is said, with what it is of', () => {
  const facts = {
    ...{
      amount: '1200',
      currency: 'GBP',
      invoice: '7',
      card: 'Larkfield ending 4242',
      code: '51',
      means: 'gateway',
    },
    ...{
      subject: 'Still unpaid',
      to: 'ada@post.example',
      state: 'sent',
      letter: '3',
      rung: 1,
      rungs: 4,
      leg: 0,
      by: 'Ada',
    },
    ...{ says: 'I will pay.', ladder: 'Steady', version: 2, payment: null },
  };
  const said = (kind: MomentRow['kind'], what: string, more: object = {}) => {
    const { says, beside } = sayMoment({ on: '2027-01-04', kind, what, facts: { ...facts, ...more } });
    return `${says} | ${beside}`;
  };
  expect(said('declined', 'retry')).toBe(
    '£12.00 declined, by a retry | Larkfield ending 4242: not enough money in the account',
  );
  expect(said('collected', 'by the customer')).toBe('£12.00 collected by the customer | invoice 7');
  expect(said('collected', 'by staff', { means: 'transfer' })).toBe(
    '£12.00 collected by transfer | invoice 7',
  );
  expect(said('letter', 'last reminder')).toBe('Still unpaid | letter to ada@post.example, sent');
  expect(said('rung', 'wrote to the customer')).toBe('Rung 2 of 4: wrote to the customer | ');
  expect(said('rung', 'retried', { leg: 1 })).toBe('Rung 2 of 4: retried | Steady, version 2');
  expect(said('card', 'customer')).toBe('Larkfield ending 4242 was given | by the customer online');
  expect(said('visit', '')).toBe('The customer opened their page | ');
  expect(said('message', 'in')).toBe('I will pay. | ');
});

const some = <One>(of: readonly One[]) =>
  fc.option(fc.subarray([...of], { minLength: 1 }), { nil: undefined });
const someSum = fc.option(fc.bigInt({ min: 0n, max: 20n }), { nil: null });
const someServes = fc
  .record({
    plans: some(['1', '2', '3']),
    methods: some(LADDER_METHODS),
    classes: some(DECLINE_CLASSES),
    amount: fc.option(fc.record({ currency: fc.constantFrom('GBP', 'JPY'), from: someSum, to: someSum }), {
      nil: undefined,
    }),
  })
  .map(({ amount, ...of }): Serves => {
    const named = Object.fromEntries(Object.entries(of).filter(([, value]) => value !== undefined));
    if (!amount) return named;
    const [from, to] = [amount.from?.toString() ?? null, amount.to?.toString() ?? null];
    return { ...named, amount: { currency: amount.currency, from, to } };
  });
const someCase: fc.Arbitrary<Chosen> = fc.record({
  planId: fc.constantFrom('1', '2', '3', '4'),
  method: fc.constantFrom(...LADDER_METHODS),
  declineClass: fc.constantFrom(...DECLINE_CLASSES),
  currency: fc.constantFrom('GBP', 'JPY', 'KWD'),
  owed: fc.bigInt({ min: 0n, max: 25n }),
});

test('a ladder is for a case if nothing that it names is otherwise, and it names something', () => {
  fc.assert(
    fc.property(someServes, someCase, (serves, of) => {
      const otherwise = [
        ...(serves.plans ? [!serves.plans.some((id) => id === of.planId)] : []),
        ...(serves.methods ? [!serves.methods.some((one) => one === of.method)] : []),
        ...(serves.classes ? [!serves.classes.some((one) => one === of.declineClass)] : []),
        ...(serves.amount
          ? [
              serves.amount.currency !== of.currency,
              serves.amount.from !== null && Number(of.owed) < Number(serves.amount.from),
              serves.amount.to !== null && Number(of.owed) > Number(serves.amount.to),
            ]
          : []),
      ];
      expect(isFor(serves, of)).toBe(otherwise.length > 0 && !otherwise.includes(true));
    }),
    { numRuns: 2_000 },
  );
});

test.each([
  ['a sum that is no number', { amount: { currency: 'GBP', from: '1.5', to: null } }],
  ['a currency that is none', { amount: { currency: 'ABC', from: '1', to: null } }],
  ['no way to pay', { methods: [] }],
  ['a way that is none', { methods: ['barter'] }],
  ['a plan that is no number', { plans: ["1'; drop table ladders"] }],
  ['something else', { moon: 'full' }],
])('%s is refused', (_, serves) => {
  expect(servesSchema.safeParse(serves).success).toBe(false);
});
