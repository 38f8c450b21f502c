import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { CustomerLink } from '../customers/CustomerLink.ts';
import { linkToken } from '../customers/link.ts';
import { keepUp } from '../run/turnPages.ts';
import { verify } from '../verify/verify.ts';
import { Attempt } from './Attempt.ts';

let world: World;
let offering: Offering;
let rateId: string;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const lines = [{ name: 'Plot', price: { scheme: 'flat', amount: '12.00' } }];
  const methods = ['card', 'online transfer'];
  ({ rateId } = await offering.plan({ name: 'Ground' }, { lines, terms: 'P21D' }, { methods }));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

interface Own {
  readonly debts: { id: string; number: string }[];
  readonly transfers: string[];
}

/** Somebody who pays by online transfer, with an invoice that is open, and the way to their own page. */
async function payer(more: object = {}) {
  const id = await offering.enrolled(rateId, { pays: 'transfer', ...more }, false);
  await world.turnTo(await offering.later(1));
  const link = await CustomerLink.findOne({
    where: { subscriptionId: id },
    order: [['id', 'desc']],
    rejectOnEmpty: true,
  });
  const path = `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
  const page = async () => (await offering.stranger('get', path)).body as unknown as Own;
  const invoiceId = (await page()).debts[0]?.id ?? '';
  return {
    ...{ id, path, page, invoiceId },
    go: () => offering.stranger('post', `${path}/transfer`, { invoiceId }),
    comeBack: async () =>
      (await offering.stranger('post', `${path}/transfer/outcome`)).body.charged as { outcome: string }[],
    attempts: () => Attempt.findAll({ where: { invoiceId }, order: ['id'] }),
    events: async () =>
      (await lettersWhere(world.almanac, 'l.subscription_id = $id', { id })).map(({ event }) => event),
  };
}

const at = (url: string, what: 'pay' | 'short' | 'leave') =>
  fetch(url, { method: 'POST', redirect: 'manual', body: new URLSearchParams({ what }) });

test('who pays by transfer is sent to the bank’s page and back; the payment counts once, from the gateway’s own word', async () => {
  const one = await payer();
  expect(await offering.done('get', `/api/subscriptions/${one.id}`)).toMatchObject({ collects: 'by hand' });
  expect((await one.page()).transfers).toEqual([one.invoiceId]);
  const { status, body } = await one.go();
  expect(status, JSON.stringify(body)).toBe(201);
  const url = body.url as string;
  const shown = await (await fetch(url)).text();
  expect(shown).toContain('£12.00');
  // The address that they come back to says nothing of their link.
  const back = await at(url, 'pay');
  expect([back.status, back.headers.get('location')]).toEqual([
    303,
    `${world.almanac.config.ALMANAC_URL}/own/back`,
  ]);
  expect(shown + back.headers.get('location')).not.toContain(one.path.split('/').at(-1));

  const outcomes = await Promise.all([one.comeBack(), one.comeBack()]);
  expect(outcomes.map(([first]) => first?.outcome)).toEqual(['collected', 'collected']);
  const paid = await world.almanac.db.rows(
    `select i.state, m.amount::text from payments m join invoices i on i.id = m.invoice_id where i.id = $id`,
    { id: one.invoiceId },
  );
  expect(paid).toEqual([{ state: 'paid', amount: '1200' }]);
  expect(await one.events()).toEqual(['invoice to pay', 'started', 'receipt']);
  const receipt = await world.almanac.db.row<{ id: string }>(
    `select id::text from letters where subscription_id = $id and event = 'receipt'`,
    { id: one.id },
  );
  const letter = await offering.done<{ plain: string }>('get', `/api/letters/${receipt?.id}`);
  expect(letter.plain).toContain('Your online transfer of £12.00 reached us');
  expect(letter.plain).not.toContain('ending');
  // It is no method that anything could be charged to.
  const { customerId } = await offering.done<{ customerId: string }>('get', `/api/subscriptions/${one.id}`);
  expect(await offering.done('get', `/api/customers/${customerId}/methods`)).toEqual([]);
  expect((await one.go()).status).toBe(409);
});

test('while the bank’s page is open nothing else charges the invoice, and who asks again, twice at once, gets the same page', async () => {
  const one = await payer();
  const [first, second] = await Promise.all([one.go(), one.go()]);
  expect(second.body.url).toBe(first.body.url);
  expect(await one.attempts()).toHaveLength(1);
  const token = 'card-while-open';
  await world.moveCards([{ token, behaviour: {} }]);
  const given = await offering.stranger('post', `${one.path}/card`, { token });
  expect(given.body.charged).toMatchObject([{ outcome: 'under way' }]);
  await keepUp(world.almanac, world.almanac.clock());
  await world.turnTo(await offering.later(2));
  expect((await world.chargesAtGateway()).filter(({ amount }) => amount === 1200n)).toHaveLength(1);

  // They go back without paying: it is over at once, and the card can be charged.
  await at(first.body.url as string, 'leave');
  expect(await one.comeBack()).toMatchObject([{ outcome: 'left' }]);
  expect((await one.attempts()).map(({ state }) => state)).toEqual(['withdrawn']);
  expect((await at(first.body.url as string, 'pay')).headers.get('location')).toContain('/send-away/');
  const again = await one.go();
  expect(again.body.url).not.toBe(first.body.url);
  await at(again.body.url as string, 'pay');
  // They never came back: it is asked for by itself.
  await Attempt.update(
    { sentAt: new Date(Date.now() - 120_000) },
    { where: { invoiceId: one.invoiceId, state: 'under way' } },
  );
  await keepUp(world.almanac, world.almanac.clock());
  expect((await one.attempts()).map(({ state }) => state)).toEqual(['withdrawn', 'collected']);
});

test('a transfer that the bank does not make leaves the invoice as it was: no case before it is late, and it can be tried again', async () => {
  const one = await payer();
  const { body } = await one.go();
  await at(body.url as string, 'short');
  expect(await one.comeBack()).toMatchObject([{ outcome: 'declined' }]);
  const row = await world.almanac.db.row<{ state: string; case_id: string | null }>(
    'select state, case_id from invoices where id = $id',
    { id: one.invoiceId },
  );
  expect(row).toEqual({ state: 'issued', case_id: null });
  expect(await one.events()).toEqual(['invoice to pay', 'started']);
  const next = await one.go();
  await at(next.body.url as string, 'pay');
  expect(await one.comeBack()).toMatchObject([{ outcome: 'declined' }, { outcome: 'collected' }]);
});

test('one that nobody ends is given up long after its page is over; what is not paid so is refused', async () => {
  const one = await payer();
  await one.go();
  const hourAgo = new Date(Date.now() - 3_700_000);
  await Attempt.update({ sentAt: hourAgo }, { where: { invoiceId: one.invoiceId } });
  await keepUp(world.almanac, world.almanac.clock());
  expect((await one.attempts()).map(({ state }) => state)).toEqual(['withdrawn']);

  const other = await payer();
  const foreign = await offering.stranger('post', `${one.path}/transfer`, { invoiceId: other.invoiceId });
  expect(foreign.status).toBe(409);
  const plain = await offering.plan(
    { name: 'Plain' },
    { lines: [{ price: { scheme: 'flat', amount: '5.00' } }] },
  );
  const refused = await offering.enrol(plain.rateId, { pays: 'transfer' }, false);
  expect(refused.body.errors).toMatchObject([{ pointer: '/pays' }]);
  // The gateway is away: nothing is begun that would block the invoice, and it is said.
  await world.misbehave({ down: true });
  const away = await other.go();
  expect([away.status, away.body.detail]).toEqual([503, expect.stringContaining('Nothing was paid')]);
  await world.misbehave({});
  expect((await other.go()).status).toBe(201);
});
