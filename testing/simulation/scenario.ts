import fc from 'fast-check';
import type { Behaviour } from '../../standins/gateway/practiceCards.ts';

/** A customer of a simulated business: on which rate, from which day on, and what their card does. */
export interface SimulatedCustomer {
  readonly rate: 'weekly' | 'fortnightly' | 'monthly' | 'tried';
  /** Days after the first. */
  readonly starts: number;
  readonly card: Behaviour;
  /** What the card that is tried after it does, where they have one. */
  readonly fallback: Behaviour | null;
  /** It is a bank account that is debited: submitted, and answered by the banks some days later. */
  readonly bank: boolean;
  /** They were asked for a card on the first day, and give none. */
  readonly waits: boolean;
  /** What they do where their bank asks them to confirm a charge, once they are written to. */
  readonly whenAsked: WhenAsked;
}
export type WhenAsked = 'confirm' | 'turn down' | 'leave';

/**
 * What falls on the run, `afterMs` after the business has come to a day: a worker, the gateway, the mail server or the
 * database is killed, or the gateway answers otherwise than it should for a while.
 */
export interface Blow {
  readonly day: number;
  readonly afterMs: number;
  readonly falls: Fall;
}
export type Fall =
  | { readonly kind: 'worker killed'; readonly which: number }
  | { readonly kind: 'connections cut' }
  | { readonly kind: 'database restarted' }
  | { readonly kind: 'gateway killed'; readonly forMs: number }
  | { readonly kind: 'gateway away'; readonly forMs: number }
  | { readonly kind: 'mail server killed'; readonly forMs: number }
  | { readonly kind: 'answers dropped'; readonly times: number }
  | { readonly kind: 'refund answers dropped'; readonly times: number }
  | {
      readonly kind: 'answers';
      readonly status: number;
      readonly times: number;
      readonly charged: boolean;
      readonly page: boolean;
    }
  | { readonly kind: 'slow'; readonly ms: number; readonly forMs: number }
  | { readonly kind: 'webhooks twice' }
  | {
      readonly kind: 'webhook forged';
      readonly how: 'unsigned' | 'another amount' | 'another account' | 'declined';
    };

/** What staff do with the money of a customer once the storm is over: some of what is owed, or was paid, and where it goes. */
export interface StaffAct {
  /** Which customer, by their place. */
  readonly of: number;
  /** In hundredths. */
  readonly share: number;
  readonly to: 'gateway' | 'credit' | 'transfer';
}

/** Everything that a seed decides. */
export interface Scenario {
  readonly customers: readonly SimulatedCustomer[];
  readonly workers: number;
  readonly blows: readonly Blow[];
  readonly acts: readonly StaffAct[];
  /** What falls on the day of these acts. */
  readonly blowsOnActs: readonly Blow[];
}

/** Days of a simulated business under blows, and days in peace after them, in which what waited is made good. */
export const STORM_DAYS = 8;
export const QUIET_DAYS = 14;
/** Days after the acts of staff, in which the banks answer what goes back and credit is used. */
export const LAST_DAYS = 8;

/** What cards do is counted, not dated: a charge that waited for its account comes out as it would have. */
const card: fc.Arbitrary<Behaviour> = fc.oneof(
  { weight: 5, arbitrary: fc.constant({}) },
  {
    weight: 2,
    arbitrary: fc.constantFrom<Behaviour>(
      { confirms: true },
      { confirms: true },
      { confirms: true, code: '51', firstTries: 1 },
    ),
  },
  fc.constantFrom<Behaviour>(
    { code: '51' },
    { code: '51', firstTries: 1 },
    { code: '51', firstTries: 2 },
    { code: '54' },
    { code: '41' },
    { code: '91', firstTries: 1 },
    { silent: true },
    { refunds: 'take days' },
    { refunds: 'come back' },
  ),
);

const customer: fc.Arbitrary<SimulatedCustomer> = fc
  .record({
    rate: fc.constantFrom('weekly' as const, 'fortnightly' as const, 'monthly' as const, 'tried' as const),
    starts: fc.integer({ min: 0, max: STORM_DAYS - 2 }),
    card,
    bank: fc.oneof({ weight: 3, arbitrary: fc.constant(false) }, fc.constant(true)),
    fallback: fc.oneof({ weight: 3, arbitrary: fc.constant(null) }, card),
    waits: fc.oneof({ weight: 7, arbitrary: fc.constant(false) }, fc.constant(true)),
    whenAsked: fc.oneof(
      { weight: 3, arbitrary: fc.constant('confirm' as const) },
      fc.constantFrom('turn down' as const, 'leave' as const),
    ),
  })
  // Who lapses some days later would be invoiced once more: those whose cards fail are due once in all of it; so are those
  // who are debited, so that the banks have answered everything by its end.
  .map((one) =>
    one.bank ? { ...one, card: one.card.code === '41' ? { code: 'AC04' } : {}, fallback: null } : one,
  )
  .map((one) =>
    one.card.code === undefined && one.card.confirms === undefined && !one.bank
      ? one
      : { ...one, rate: 'monthly' as const },
  );

const forMs = fc.integer({ min: 20, max: 400 });
const fall: fc.Arbitrary<Fall> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      kind: fc.constant('worker killed' as const),
      which: fc.integer({ min: 0, max: 2 }),
    }),
  },
  { weight: 3, arbitrary: fc.constant({ kind: 'connections cut' as const }) },
  { weight: 1, arbitrary: fc.constant({ kind: 'database restarted' as const }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('gateway killed' as const), forMs }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('gateway away' as const), forMs }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('mail server killed' as const), forMs }) },
  {
    weight: 3,
    arbitrary: fc.record({
      kind: fc.constant('answers dropped' as const),
      times: fc.integer({ min: 1, max: 4 }),
    }),
  },
  {
    weight: 6,
    arbitrary: fc.record({
      kind: fc.constant('answers' as const),
      status: fc.constantFrom(400, 401, 403, 404, 408, 413, 422, 429, 500, 502, 503),
      times: fc.integer({ min: 1, max: 6 }),
      charged: fc.boolean(),
      page: fc.constant(true),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      kind: fc.constant('answers' as const),
      // The gateway's own words: it turned the request away, and so did nothing.
      status: fc.constantFrom(401, 403, 429, 503),
      times: fc.integer({ min: 1, max: 6 }),
      charged: fc.constant(false),
      page: fc.constant(false),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      kind: fc.constant('slow' as const),
      ms: fc.integer({ min: 5, max: 60 }),
      forMs,
    }),
  },
  { weight: 2, arbitrary: fc.constant({ kind: 'webhooks twice' as const }) },
  {
    weight: 2,
    arbitrary: fc.record({
      kind: fc.constant('webhook forged' as const),
      how: fc.constantFrom(
        'unsigned' as const,
        'another amount' as const,
        'another account' as const,
        'declined' as const,
      ),
    }),
  },
);

const blowOn = (day: fc.Arbitrary<number>, what = fall): fc.Arbitrary<Blow> =>
  fc.record({ day, afterMs: fc.integer({ min: 0, max: 120 }), falls: what });

const scenario: fc.Arbitrary<Scenario> = fc.record({
  customers: fc.array(customer, { minLength: 4, maxLength: 14 }),
  workers: fc.integer({ min: 1, max: 3 }),
  blows: fc.array(blowOn(fc.integer({ min: 0, max: STORM_DAYS - 1 })), { minLength: 1, maxLength: 7 }),
  acts: fc.uniqueArray(
    fc.record({
      of: fc.integer({ min: 0, max: 13 }),
      share: fc.integer({ min: 1, max: 100 }),
      to: fc.constantFrom('gateway' as const, 'gateway' as const, 'credit' as const, 'transfer' as const),
    }),
    { selector: ({ of }) => of, minLength: 3, maxLength: 10 },
  ),
  blowsOnActs: fc.array(
    blowOn(
      fc.constant(STORM_DAYS + QUIET_DAYS),
      fc.oneof(
        { weight: 2, arbitrary: fall },
        fc.record({
          kind: fc.constant('refund answers dropped' as const),
          times: fc.integer({ min: 1, max: 4 }),
        }),
      ),
    ),
    { maxLength: 4 },
  ),
});

/** The scenario of a seed: the same one each time. */
export function scenarioOf(seed: number): Scenario {
  const [one] = fc.sample(scenario, { seed, numRuns: 1 });
  if (!one) throw new Error('There is no scenario.');
  return { ...one, blows: one.blows.toSorted((a, b) => a.day - b.day || a.afterMs - b.afterMs) };
}
