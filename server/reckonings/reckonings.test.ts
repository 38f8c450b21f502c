import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';
import { GOOD_DAYS } from './keptReckonings.ts';

// A reckoning is priced once and frozen; accepting it is the one way in. What it said is held against what the run invoices.

let world: World;
let offering: Offering;
let planId: string;
let rateId: string;
let people = 0;
const lines = [{ name: 'Row', price: { scheme: 'each', amount: '31.00' } }];
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  ({ planId, rateId } = await offering.plan(
    { name: 'Rows' },
    { lines, setup: { amount: '45.00' } },
    { methods: ['card', 'invoice'] },
  ));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

interface Kept {
  readonly id: string;
  readonly says: string;
  readonly goodUntil: string;
  readonly dues: { dueOn: string; due: string }[];
}
const reckon = async (more: object = {}) =>
  offering.ask('post', '/api/reckonings', { rateId, starts: await offering.today(), ...more });
const reckoned = async (more: object = {}): Promise<Kept> => {
  const { status, body } = await reckon(more);
  expect(status, JSON.stringify(body)).toBe(201);
  return body as Kept;
};
const somebody = () => {
  people += 1;
  return { name: `Q ${people}`, email: `q${people}@post.example` };
};
const acceptIt = async (id: string, more: object = {}) => {
  const cardToken = `card-of-acceptance-${people}`;
  await world.moveCards([{ token: cardToken, behaviour: {} }]);
  return offering.ask('post', `/api/reckonings/${id}/acceptance`, {
    customer: somebody(),
    cardToken,
    ...more,
  });
};
/** Sells at another price from now on, as staff do it: those who subscribe stay as they are. */
const dearer = async (amount: string) => {
  const { rates } = await offering.done<{
    rates: { id: string; version: number; terms: object; name: string; options: object; taxChoice: object }[];
  }>('get', `/api/plans/${planId}`);
  const rate = rates.find(({ id }) => id === rateId);
  if (!rate) throw new Error('The rate is not there.');
  const { version, name, options, taxChoice } = rate;
  const terms = { ...rate.terms, lines: [{ name: 'Row', price: { scheme: 'each', amount } }] };
  const value = { name, terms, options, taxChoice };
  await offering.done('put', `/api/rates/${rateId}`, { version, value, subscribers: { kind: 'stay' } });
};

describe('a reckoning', () => {
  test('says what it comes to, and the run invoices just that, whatever the price becomes meanwhile', async () => {
    const kept = await reckoned({ quantity: 2, own: { billingDay: 1, setUp: '10.00' } });
    expect(kept.says).toBe('£62.00 every month on the 1st for 2 × Row');
    await dearer('99.00');
    const { status, body } = await acceptIt(kept.id);
    expect(status, JSON.stringify(body)).toBe(201);
    // It is of the version that was priced, not of the one that is sold by now.
    const [of] = await world.almanac.db.rows(
      'select s.rate_version as begun, r.version as sold from subscriptions s join rates r on r.id = s.rate_id where s.id = $id',
      { id: body.id },
    );
    expect(of).toEqual({ begun: 1, sold: 2 });
    await world.turnTo('2027-03-02');
    const invoiced = await world.almanac.db.rows<{ said: string }>(
      `select due_on || ' ' || total as said from invoices where subscription_id = $id order by id`,
      { id: body.id },
    );
    expect(invoiced.map(({ said }) => said)).toEqual(
      kept.dues.slice(0, 3).map(({ dueOn, due }) => `${dueOn} ${due}`),
    );
    // Whoever comes later pays the new price.
    expect((await reckoned({ quantity: 2 })).says).toBe('£198.00 every month for 2 × Row');
    await dearer('31.00');
  });

  test('is accepted once, also by two at the same time, and not when it is over', async () => {
    const { id } = await reckoned();
    const answers = await Promise.all([acceptIt(id), acceptIt(id), acceptIt(id)]);
    expect(answers.map(({ status }) => status).toSorted()).toEqual([201, 409, 409]);
    const old = await reckoned({ starts: formatDay(toDay(await offering.today()) + GOOD_DAYS + 5) });
    const begun = await reckoned();
    await world.turnTo(formatDay(toDay(old.goodUntil) + 1));
    const late = await acceptIt(old.id);
    expect([late.status, late.body.detail]).toEqual([410, expect.stringContaining('was good until')]);
    expect((await acceptIt(begun.id)).status).toBe(410);
    expect((await acceptIt('999999')).status).toBe(404);
  });

  test('that was made for one customer is no other’s', async () => {
    const { customerId } = (await offering.enrol(rateId)).body;
    const mine = await reckoned({ customer: { id: customerId } });
    const answer = await acceptIt(mine.id);
    expect(answer.body.errors[0].pointer).toBe('/customer');
    expect((await acceptIt(mine.id, { customer: { id: customerId } })).status).toBe(201);
  });

  test('for a customer whose taxes make it come out otherwise is refused, and nothing is left behind', async () => {
    const tax = await world.almanac.db.row<{ id: string }>(
      `with t as (insert into taxes (name) values ('VAT') returning id)
       insert into tax_rates (tax_id, country, percent, mode, valid_from) select id, null, 20, 'exclusive', '2020-01-01' from t
       returning tax_id::text as id`,
    );
    const taxed = await offering.plan({ name: 'Taxed' }, { lines });
    await world.almanac.db.rows(`update rates set tax_choice = $choice::jsonb where id = $id`, {
      choice: JSON.stringify({ kind: 'tax', id: tax?.id }),
      id: taxed.rateId,
    });
    const kept = await reckoned({ rateId: taxed.rateId });
    const before = await world.almanac.db.row(`select count(*)::int as n from customers`);
    const answer = await acceptIt(kept.id, {
      customer: { ...somebody(), tax_exempt: 'charity' },
    });
    expect(kept.dues[0]?.due).toBe('3720');
    expect([answer.status, answer.body.errors?.[0]?.pointer]).toEqual([409, '/shown']);
    expect(await world.almanac.db.row(`select count(*)::int as n from customers`)).toEqual(before);
  });
});

describe('an enrolment in one', () => {
  test('is refused where the charges come out otherwise than they were shown', async () => {
    const today = await offering.today();
    const good = await reckoned();
    const shown = good.dues.slice(0, 3);
    expect((await offering.enrol(rateId, { shown })).status).toBe(201);
    await dearer('32.00');
    const refused = await offering.enrol(rateId, { shown });
    expect([refused.status, refused.body.errors[0].pointer]).toEqual([409, '/shown']);
    expect(refused.body.detail).toContain('£77.00');
    await dearer('31.00');
    const another = await offering.enrol(rateId, { shown: [{ dueOn: today, due: '1' }] });
    expect(another.status).toBe(409);
  });

  test('keeps what was agreed: through whom, from where, in which words, and why no tax is charged', async () => {
    const own = { noTaxBecause: 'Certificate 12 of the county', note: 'Thank you for the honey', setUp: '0' };
    const id = await offering.enrolled(rateId, { own });
    const view = await offering.done<{ agreement: object }>('get', `/api/subscriptions/${id}`);
    expect(view.agreement).toMatchObject({
      ...{ channel: 'staff', says: '£31.00 (no tax) every month', noTaxBecause: own.noTaxBecause },
      on: await offering.today(),
    });
    await world.turnTo(await offering.later(1));
    const [invoice] = await world.almanac.db.rows<{ fields: object[] }>(
      `select fields from invoices where subscription_id = $id`,
      { id },
    );
    expect(invoice?.fields).toEqual([
      { label: 'No tax', value: own.noTaxBecause },
      { label: 'Note', value: own.note },
    ]);
  });

  test('words of staff stand in the first letter, which may be left out', async () => {
    const firstWords = 'Bring your own veil <b>& gloves</b> {{ business }}.';
    const greeted = await offering.enrolled(rateId, { firstWords });
    const quiet = await offering.enrolled(rateId, { firstLetter: false });
    await world.turnTo(await offering.later(1));
    const started = async (id: string) =>
      (await lettersWhere(world.almanac, `l.subscription_id = $id and l.event = 'started'`, { id })).map(
        ({ plain }) => plain,
      );
    // They are words and no template: nothing in them is carried out.
    expect((await started(greeted))[0]).toContain(firstWords);
    expect(await started(quiet)).toEqual([]);
  });

  test('whoever is brought over keeps by which file and terms', async () => {
    const [id = ''] = await world.enrol([{}]);
    const view = await offering.done<{ agreement: object }>('get', `/api/subscriptions/${id}`);
    expect(view.agreement).toMatchObject({ channel: 'import', says: null, dues: [] });
  });

  test.each([
    { own: { setUp: '1.234' }, at: '/own/setUp' },
    { own: { discount: { percent: '5', amount: '1.00' } }, at: '/own/discount' },
    { own: { lines: [{ name: ' ', amount: '1.00', when: 'once' }] }, at: '/own/lines/0/name' },
    { own: { lines: [{ name: 'x', amount: '1.234', when: 'recurring' }] }, at: '/own/lines/0' },
    { own: { termDays: 400 }, at: '/own/termDays' },
    { own: { noTaxBecause: '' }, at: '/own/noTaxBecause' },
    { own: { billingDay: 40 }, at: '/own/billingDay' },
  ])('$own is refused at $at', async ({ own, at }) => {
    const answer = await reckon({ own });
    expect([answer.status, answer.body.errors?.[0]?.pointer]).toEqual([422, at]);
  });

  test('a line of this agreement alone goes through later changes of it', async () => {
    const own = { setUp: '0', lines: [{ name: 'Visit', amount: '4.00', when: 'recurring' }] };
    const id = await offering.enrolled(rateId, { own, quantity: 1 });
    await world.turnTo(await offering.later(1));
    const alter = { kind: 'quantity', quantity: 3, from: 'renewal' };
    const altered = await offering.ask('post', `/api/subscriptions/${id}/alter`, alter);
    expect(altered.status, JSON.stringify(altered.body)).toBeLessThan(300);
    const { terms } = (await world.almanac.db.row<{ terms: { changes: { lines: { name: string }[] }[] } }>(
      'select terms from subscriptions where id = $id',
      { id },
    )) ?? { terms: { changes: [] } };
    expect(terms.changes[0]?.lines.map(({ name }) => name)).toEqual(['Row', 'Visit']);
  });
});
