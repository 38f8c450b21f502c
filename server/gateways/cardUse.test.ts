import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { PRACTICE_CARDS } from '../../standins/gateway/practiceCards.ts';
import { handOver } from '../../testing/handOver.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
let abroad = '';
const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '10.00' } }];

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  abroad = await handOver(offering.ask, 'cards-abroad');
});
afterAll(() => world.end());

/** Gives a card as the browser does: to the gateway that is told for the rate. */
async function given(rateId: string): Promise<string> {
  const { gateway } = await offering.done<{ gateway: { url: string; publicKey: string } }>(
    'get',
    `/api/card-gateway?rateId=${rateId}`,
  );
  const answer = await fetch(new URL('/v1/cards', gateway.url), {
    method: 'POST',
    headers: { Authorization: `Bearer ${gateway.publicKey}`, 'Content-Type': 'application/json' },
    body: JSON.stringify({ number: PRACTICE_CARDS[0]?.number, expiresYear: 2031, expiresMonth: 5 }),
  });
  return ((await answer.json()) as { token: string }).token;
}
const enrol = async (rateId: string, more: object) => (await offering.enrol(rateId, more, false)).body;
const sameCustomer = async (id: string) => ({
  customer: {
    id: (await offering.done<{ customerId: string }>('get', `/api/subscriptions/${id}`)).customerId,
  },
});

test('a card is given where the rate takes it, and charged there', async () => {
  const { rateId: here } = await offering.plan({ name: 'Here' }, { lines });
  const { rateId: there } = await offering.plan(
    { name: 'There' },
    { lines, currency: 'EUR' },
    { gateways: [abroad] },
  );
  const euros = (await enrol(there, { cardToken: await given(there) })).id;
  const pounds = (await enrol(here, { cardToken: await given(here) })).id;
  expect((await enrol(there, { cardToken: await given(here) })).errors).toMatchObject([
    { pointer: '/cardToken', detail: 'The gateway does not know this card. Enter it again.' },
  ]);
  expect((await enrol(there, await sameCustomer(pounds))).errors[0].detail).toMatch(
    /^The card on file is kept at Sample business, cards, which cannot be charged for this rate/,
  );
  const both = { ...(await sameCustomer(euros)), cardToken: await given(here) };
  expect((await enrol(here, both)).errors[0].detail).toMatch(/no one gateway takes it for both/);

  await world.turnTo('2027-02-05');
  const charged = await world.almanac.db.rows(
    `select s.id::text, g.account, a.state from attempts a join invoices i on i.id = a.invoice_id
     join subscriptions s on s.id = i.subscription_id join payment_methods m on m.id = a.payment_method_id
     join gateway_accounts g on g.id = m.gateway_account_id order by i.period_from, s.id`,
  );
  const of = (id: string, account: string) => ({ id, account, state: 'collected' });
  const month = [of(euros, 'cards-abroad'), of(pounds, 'cards-main')];
  expect(charged).toEqual([...month, ...month]);
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('where no gateway charges a currency, that is said before anything is stored', async () => {
  const { rateId } = await offering.plan({ name: 'Nowhere' }, { lines, currency: 'SEK' });
  expect((await enrol(rateId, { cardToken: await given(rateId) })).errors).toMatchObject([
    { pointer: '/cardToken', detail: 'No gateway that is connected charges SEK.' },
  ]);
});
