import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { dayByDay } from '../../testing/dayByDay/dayByDay.ts';
import type { DayByDayPayment, Document, Tax } from '../../testing/dayByDay/terms.ts';
import { Offering } from '../../testing/offering.ts';
import { SHORT_WAIT, World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

// Lives of subscriptions as they may come: enrolled on any rate, altered by staff or the customer, moved to new
// prices, with cards that fail and a gateway that goes away. After each step everything must be true that always is,
// and what was shown before it was done must be what came of it.

/** Another seed lives other lives: LIVES_SEED=7 npx vitest run server/run/lives.test.ts */
const SEED = Number(process.env.LIVES_SEED ?? 11);
const STEPS = 300;

let world: World;
let offering: Offering;
let rates: { rateId: string; planId: string }[];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'), { ...SHORT_WAIT, LOG_LEVEL: 'error' });
  offering = await Offering.of(world);
  rates = await sellables();
});
afterAll(() => world.end());

const each = (amount: string) => ({ scheme: 'each', amount });
const flat = (amount: string) => ({ scheme: 'flat', amount });
const EXTRA = { currency: 'GBP', min: 1, max: 4, byCustomer: true };
const EVERYTHING = {
  ...{ cancel: 'period end', pause: true, pauseMost: 3, skip: true },
  ...{ quantity: true, quantityMost: 9, variant: true, code: true, instalmentsToo: true },
};

/** Rates of every kind, with all that can be chosen and done of them. */
async function sellables() {
  const extras = [
    { ...EXTRA, key: 'jar', name: 'Jar', price: each('3.00'), when: 'recurring', how: 'preselected' },
    { ...EXTRA, key: 'veil', name: 'Veil', price: each('8.00'), when: 'once', how: 'offered' },
  ];
  const plan = (name: string, terms: object, options = {}) =>
    offering.plan({ name, extras, mayDo: EVERYTHING }, terms, options);
  const hive = (more: object) => [{ name: 'Hive', price: each('7.30'), ...more }];
  const made = [
    await plan('Hives', {
      lines: hive({ intro: { payments: 2, amount: '1.00' } }),
      setup: { amount: '12.00' },
    }),
    await plan('Halves', { lines: hive({}), on: { days: [6, 21] }, stub: 'prorate' }),
    await plan(
      'Tried',
      { lines: hive({}), interval: 'P2W', trial: { length: 'P10D' } },
      { withoutMethod: 'pause', noticeDays: 3 },
    ),
    await plan(
      'Kit',
      { lines: [{ name: 'Kit', price: { scheme: 'instalments', total: '70.00' } }], ends: { after: 3 } },
      { invoicing: 'whole' },
    ),
    await plan(
      'Billed',
      { lines: [{ name: 'Row', price: flat('20.00') }], terms: 'P7D' },
      { methods: ['invoice'] },
    ),
    await plan('Sold', { once: [{ name: 'Stand', amount: '40.00' }], interval: undefined }),
  ];
  for (const { planId, rateId } of made.slice(0, 3)) {
    const variants = `/api/plans/${planId}/variants`;
    await offering.done('post', variants, { name: 'Large', prices: { [rateId]: [each('9.10')] } });
    await offering.done('post', variants, { name: 'Small' });
  }
  const discount = {
    name: 'Spring',
    as: 'percent',
    off: '20',
    currency: null,
    payments: 2,
    appliesTo: 'recurring',
  };
  const free = {
    plans: [],
    validFrom: null,
    validTo: null,
    mostUses: null,
    mostPerCustomer: null,
    stacks: true,
  };
  const { id } = await offering.done('post', '/api/discounts', { value: { ...discount, ...free } });
  await offering.done('post', `/api/discounts/${id}/codes`, { kind: 'one', code: 'SPRING', mostUses: null });
  return made;
}

const from = fc.constantFrom('now', 'renewal');
const given = fc.constantFrom('free', 'prorate');
const few = fc.integer({ min: 1, max: 5 });
const alteration = fc.oneof(
  fc.record({ kind: fc.constant('quantity'), quantity: few, from }),
  fc.record({
    kind: fc.constant('extra'),
    key: fc.constant('jar'),
    quantity: fc.integer({ min: 0, max: 5 }),
    from,
  }),
  fc.record({ kind: fc.constant('once'), key: fc.constant('veil'), quantity: few, from }),
  fc.record({ kind: fc.constant('pause'), periods: fc.integer({ min: 1, max: 3 }) }),
  fc.record({ kind: fc.constant('pause until'), in: fc.integer({ min: 10, max: 90 }), rest: given }),
  fc.record({ kind: fc.constant('date'), in: fc.integer({ min: 1, max: 50 }), days: given }),
  fc.record({
    kind: fc.constant('cancel'),
    when: fc.constantFrom('now', 'period end', 'period end', 'period end'),
  }),
  fc.record({ kind: fc.constant('go on') }),
  fc.record({ kind: fc.constant('code'), code: fc.constant('SPRING') }),
  fc.record({ kind: fc.constant('variant'), which: few, from }),
);
const behaviour = fc.oneof(
  { weight: 4, arbitrary: fc.constant({}) },
  fc.constantFrom(
    { code: '51' },
    { code: '51', firstTries: 2 },
    { code: '41', from: '2027-02-10' },
    { silent: true },
  ),
);
const often = <One>(weight: number, arbitrary: fc.Arbitrary<One>) => ({ weight, arbitrary });
const does = <Kind extends string>(kind: Kind) => fc.constant(kind);
const step = fc.oneof(
  often(
    3,
    fc.record({ does: does('enrol'), which: fc.integer({ min: 0, max: 5 }), behaviour, card: fc.boolean() }),
  ),
  often(9, fc.record({ does: does('alter'), which: fc.nat(), asked: alteration })),
  often(4, fc.record({ does: does('wait'), days: fc.integer({ min: 1, max: 9 }) })),
  often(1, fc.record({ does: does('card'), which: fc.nat() })),
  often(
    1,
    fc.record({
      does: does('price'),
      which: fc.integer({ min: 0, max: 2 }),
      pence: fc.integer({ min: 100, max: 999 }),
    }),
  ),
  often(1, fc.record({ does: does('outage') })),
);
type Step = typeof step extends fc.Arbitrary<infer One> ? One : never;

/** The subscriptions that were enrolled, in their order. */
const lives: string[] = [];
let cards = 0;
const newCard = async (behaves: object) => {
  const token = `card-of-a-life-${(cards += 1)}`;
  await world.moveCards([{ token, behaviour: behaves }]);
  return token;
};
const chosen = (which: number) => lives[which % lives.length];

/** Answers that are no fault of ours: done, or refused for a reason that is said. */
const ANSWERED = [200, 201, 403, 422];

async function take(one: Step): Promise<string> {
  switch (one.does) {
    case 'wait':
      await world.turnTo(formatDay(toDay(await offering.today()) + one.days));
      return '';
    case 'outage': {
      await world.misbehave({ down: true });
      await world.turnTo(formatDay(toDay(await offering.today()) + 3)).catch(() => undefined);
      await world.misbehave({ down: false });
      return '';
    }
    case 'enrol': {
      const rate = rates[one.which % rates.length];
      const plan = await offering.done<{ variants: { id: string }[] }>('get', `/api/plans/${rate?.planId}`);
      const variantId = plan.variants[0]?.id;
      const pays =
        one.which === 4 ? { pays: 'invoice' } : one.card ? { cardToken: await newCard(one.behaviour) } : {};
      const more = { ...(variantId ? { variantId } : {}), ...pays };
      const { status, body } = await offering.enrol(rate?.rateId ?? '', more, false);
      expect(ANSWERED, JSON.stringify(body)).toContain(status);
      if (status === 201) lives.push(body.id);
      return `${status}`;
    }
    case 'card': {
      const id = chosen(one.which);
      if (!id) return '';
      const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`);
      const { status } = await offering.ask('post', `/api/customers/${customerId}/card`, {
        token: await newCard({}),
      });
      expect(ANSWERED).toContain(status);
      return `${status}`;
    }
    case 'price': {
      const { planId, rateId } = rates[one.which] ?? { planId: '', rateId: '' };
      const { rates: all } = await offering.done<{
        rates: { id: string; name: string; version: number; terms: { lines: object[] }; options: object }[];
      }>('get', `/api/plans/${planId}`);
      const rate = all.find(({ id }) => id === rateId);
      if (!rate) throw new Error('The rate is gone.');
      const lines = [{ name: 'Hive', price: each((one.pence / 100).toFixed(2)) }];
      const value = { name: rate.name, terms: { ...rate.terms, lines }, options: rate.options };
      await offering.done('put', `/api/rates/${rateId}`, {
        ...{ version: rate.version, value, subscribers: { kind: 'renewal', letterDays: 2 } },
      });
      return 'moved';
    }
    case 'alter': {
      const id = chosen(one.which);
      if (!id) return '';
      return alter(id, one.asked);
    }
  }
}

/** Alters a life; what was shown before is what comes of it. */
async function alter(id: string, { which: _, ...asked }: Record<string, unknown> & { which?: number }) {
  const message = await messageOf(id, asked);
  const effect = await offering.ask('post', `/api/subscriptions/${id}/effect`, message);
  expect(ANSWERED, JSON.stringify(effect.body)).toContain(effect.status);
  const done = await offering.ask('post', `/api/subscriptions/${id}/alter`, message);
  const came = (status: number) => (status < 300 ? 'done' : status);
  expect(
    came(done.status),
    `${JSON.stringify(message)} of ${id} is done if it was shown, and only then`,
  ).toBe(came(effect.status));
  if (done.status !== 201) return `${asked.kind} refused`;
  expect(done.body).toEqual(effect.body);
  const { coming } = await offering.done<{ coming: object[] }>('get', `/api/subscriptions/${id}`);
  expect(coming.slice(0, 6)).toEqual(effect.body.after.slice(0, 6));
  return `${asked.kind}`;
}

/** What is asked, with the variant that it is not yet, or a day that lies so many days ahead. */
async function messageOf(id: string, { in: days, ...asked }: Record<string, unknown>) {
  if (asked.kind === 'variant') return { ...asked, variantId: await otherVariant(id) };
  return days === undefined
    ? asked
    : { ...asked, to: formatDay(toDay(await offering.today()) + Number(days)) };
}

async function otherVariant(id: string): Promise<string> {
  const row = await world.almanac.db.row<{ id: string }>(
    `select v.id::text from variants v join rates r on r.plan_id = v.plan_id join subscriptions s on s.rate_id = r.id
     where s.id = $id and v.id is distinct from s.variant_id order by v.id limit 1`,
    { id },
  );
  return row?.id ?? '999999';
}

interface Invoiced {
  readonly id: string;
  readonly terms: Document;
  readonly by_law: boolean;
  readonly invoices: readonly (Omit<DayByDayPayment, 'lines' | 'total' | 'credit'> & {
    readonly lines: readonly { amount: string }[];
    readonly total: string;
    readonly credit: string;
    readonly law_tax: Tax | null;
  })[];
}

/** Every invoice of every life is what its terms come to when they are lived day by day, line for line. */
async function heldAgainstDays(): Promise<void> {
  const lived = await world.almanac.db.rows<Invoiced>(`
    select s.id::text, s.terms, s.tax_id is not null as by_law,
      (select json_agg(json_build_object('kind', kind, 'from', period_from, 'to', period_to, 'lines', lines,
                'total', total::text, 'credit', credit_used::text, 'law_tax', law_tax)
                order by period_from, array_position(array['trial', 'stub', 'period', 'change', 'once'], kind), number)
       from (
         select number, kind, period_from, period_to, lines, total, credit_used, law_tax from invoices where subscription_id = s.id
         union all
         select number, settles, period_from, period_to,
           (select jsonb_agg(l || jsonb_build_object('amount', (-(l ->> 'amount')::bigint)::text)) from jsonb_array_elements(lines) l),
           -total, 0, law_tax
         from credit_notes where subscription_id = s.id and kind = 'settlement') i) as invoices
    from subscriptions s
    where s.invoicing = 'each' and exists (select 1 from invoices where subscription_id = s.id) order by s.id`);
  let held = 0;
  for (const { id, terms, by_law, invoices } of lived) {
    const last = invoices.at(-1)?.from ?? '';
    const taxes = new Map(invoices.map(({ from, law_tax }) => [toDay(from), law_tax]));
    const days = dayByDay(terms, last, by_law ? (day) => taxes.get(day) ?? null : undefined);
    const minor = (amount: string) => BigInt(amount.replace('.', '')).toString();
    const expected = days.map(({ lines, total, credit, ...one }) => ({
      ...{ ...one, lines: lines.map(minor), total: minor(total), credit: minor(credit) },
    }));
    const issued = invoices.map(({ kind, from, to, lines, total, credit }) => ({
      ...{ kind, from, to, lines: lines.map(({ amount }) => amount), total, credit },
    }));
    // A day may hold more than was invoiced of it before the life ended.
    expect(issued, `subscription ${id}: ${JSON.stringify(terms)}`).toEqual(expected.slice(0, issued.length));
    held += issued.length;
  }
  expect(held).toBeGreaterThan(40);
}

test('whatever becomes of them, everything is invoiced once, charged once, told, and as it was shown before', async () => {
  const done = new Set<string>();
  let refused = 0;
  for (const [i, one] of fc.sample(step, { seed: SEED, numRuns: STEPS }).entries()) {
    const came = await take(one);
    if (came.endsWith('refused')) refused += 1;
    else done.add(came);
    if (i % 8 === 0)
      for (const { rule, breaches } of await verify(world.almanac))
        expect(breaches, `${rule}, step ${i}`).toEqual([]);
  }
  await world.turnTo(formatDay(toDay(await offering.today()) + 45));
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await heldAgainstDays();
  expect(await world.almanac.db.rows('select id from subscriptions where held_on is not null')).toEqual([]);
  // The lives were lives: most of what can be altered was.
  const kinds = ['quantity', 'extra', 'once', 'pause', 'cancel', 'variant', 'code'];
  expect(kinds.filter((kind) => done.has(kind)).length).toBeGreaterThan(4);
  expect(lives.length).toBeGreaterThan(10);
  expect(refused).toBeLessThan(STEPS / 2);
});
