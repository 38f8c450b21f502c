import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { importFiles } from '../imports/importFiles.ts';
import { verify } from '../verify/verify.ts';
import { CustomerLink } from './CustomerLink.ts';
import { linkToken } from './link.ts';
import { MOVED } from './merge.sql.ts';
import type { ErasureEffect, MergeEffect } from './mergeMessages.ts';

let world: World;
let offering: Offering;
let rateId: string;
let cards = 0;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
  ({ rateId } = await offering.plan({ name: 'Rows' }, { lines, interval: 'P1W' }));
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

interface Somebody {
  readonly id: string;
  readonly customerId: string;
  readonly token: string;
}
async function somebody(behaviour: object = {}, more: object = {}): Promise<Somebody> {
  cards += 1;
  const token = `card-of-merged-${cards}`;
  await world.moveCards([{ token, behaviour }]);
  const answer = await offering.enrol(rateId, { cardToken: token, ...more }, false);
  expect(answer.status, JSON.stringify(answer.body)).toBe(201);
  return { ...(answer.body as { id: string; customerId: string }), token };
}
const turn = async (days: number) => world.turnTo(await offering.later(days));
const lastToken = async (id: string) =>
  (
    await world.almanac.db.row<{ token: string }>(
      `select a.request ->> 'token' as token from attempts a join invoices i on i.id = a.invoice_id
       where i.subscription_id = $id order by a.id desc limit 1`,
      { id },
    )
  )?.token;

describe('two records of one customer', () => {
  test('are put together: the effect is shown first, all of it moves, and each card goes on paying for what it paid', async () => {
    const stays = await somebody();
    const goes = await somebody({ code: '51' });
    await turn(1);
    await offering.done('post', `/api/customers/${goes.customerId}/notes`, { says: 'Has two hives' });
    await offering.done('post', `/api/customers/${goes.customerId}/contacts`, {
      ...{ name: 'Tess', email: 'tess@post.example', letters: ['payments'] },
    });
    const path = `/api/customers/${stays.customerId}/merge`;
    const effect = await offering.done<MergeEffect>('post', `${path}/effect`, { from: goes.customerId });
    expect(effect).toMatchObject({ subscriptions: ['Rows'], invoices: 1, taxesDiffer: false });
    expect(effect.lost.map(({ field }) => field)).toEqual(['name', 'e-mail']);
    const link = await CustomerLink.create({
      ...{ customerId: goes.customerId, subscriptionId: goes.id, expiresOn: '2031-01-01' },
    });
    const own = `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
    expect((await offering.stranger('get', own)).status).toBe(200);
    expect(await offering.done('post', path, { from: goes.customerId })).toEqual(effect);
    expect((await offering.stranger('get', own)).body.detail).toContain('put together');
    expect((await offering.ask('get', `/api/customers/${goes.customerId}`)).status).toBe(404);
    const found = await offering.done<{ rows: { id: string }[] }>(
      'get',
      `/api/subscriptions?customerId=${stays.customerId}`,
    );
    expect(found.rows.map(({ id }) => id).toSorted()).toEqual([stays.id, goes.id].toSorted());
    await turn(8);
    expect(await lastToken(stays.id)).toBe(stays.token);
    // The card of the record that went has no money: after it the other's is tried, as with any subscription's own.
    expect(await lastToken(goes.id)).toBe(stays.token);
    const timeline = await offering.done<{ rows: { says: string }[] }>(
      'get',
      `/api/customers/${stays.customerId}/timeline?kind=note`,
    );
    expect(timeline.rows.map(({ says }) => says)).toEqual(['Has two hives']);
  });

  test('a file that is imported again knows whoever was put into another record', async () => {
    const [first = '', second = ''] = await world.enrol([{}, {}]);
    const who = async (id: string) =>
      (await world.almanac.db.row<{ id: string; reference: string; plan: string }>(
        `select c.id::text, c.reference, p.key as plan from subscriptions s join customers c on c.id = s.customer_id
         join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id where s.id = $id`,
        { id },
      )) ?? { id: '', reference: '', plan: '' };
    const [stays, goes] = [await who(first), await who(second)];
    const text = `reference,name,email,plan,rate,starts\r\n${goes.reference},X,x@post.example,${goes.plan},only,${await offering.later(3)}\r\n`;
    await offering.done('post', `/api/customers/${stays.id}/merge`, { from: goes.id });
    const report = await importFiles(world.almanac, [{ name: 'again.csv', text }], { dryRun: false });
    expect(report).toMatchObject({
      problems: [],
      added: { customers: 0, subscriptions: 0 },
      alreadyThere: { customers: 1, subscriptions: 1 },
    });
  });

  test('whoever has no card gets that of the record that goes, as the first', async () => {
    const { body } = await offering.enrol(rateId, { pays: 'mail' }, false);
    const stays = body as { id: string; customerId: string };
    const goes = await somebody();
    await offering.done('post', `/api/customers/${stays.customerId}/merge`, { from: goes.customerId });
    await turn(1);
    expect(await lastToken(stays.id)).toBe(goes.token);
    expect(await lastToken(goes.id)).toBe(goes.token);
  });

  test('two who put the same two together at once, either way round, do it once', async () => {
    for (let n = 0; n < 4; n += 1) await atOnce();
  });

  async function atOnce() {
    const [one, two] = [await somebody(), await somebody()];
    const answers = await Promise.all([
      offering.ask('post', `/api/customers/${one.customerId}/merge`, { from: two.customerId }),
      offering.ask('post', `/api/customers/${two.customerId}/merge`, { from: one.customerId }),
    ]);
    expect(
      answers.map(({ status }) => (status < 300 ? 'done' : status)).filter((one) => one === 'done'),
    ).toHaveLength(1);
    expect(answers.every(({ status }) => status < 500)).toBe(true);
    const same = await offering.ask('post', `/api/customers/${one.customerId}/merge`, {
      from: one.customerId,
    });
    expect(same.status).toBeGreaterThanOrEqual(404);
  }

  test('no table that belongs to customers is forgotten', async () => {
    const tables = await world.almanac.db.rows<{ name: string }>(
      `select table_name as name from information_schema.columns
       where column_name = 'customer_id' and table_schema = 'public' order by 1`,
    );
    const byThemselves = ['contacts', 'credit_balances', 'letters', 'payment_methods'];
    expect(tables.map(({ name }) => name)).toEqual([...MOVED, ...byThemselves].toSorted());
  });
});

describe('erasing a customer', () => {
  const effectOf = (id: string) => offering.done<ErasureEffect>('get', `/api/customers/${id}/erasure`);

  test('waits until nothing runs and nothing is owed, and says why', async () => {
    const runs = await somebody({ code: '51' });
    await turn(1);
    const { hindrances } = await effectOf(runs.customerId);
    expect(hindrances.join(' ')).toMatch(/A subscription runs.*still owed/);
    const answer = await offering.ask('post', `/api/customers/${runs.customerId}/erasure`);
    expect([answer.status, answer.body.detail]).toEqual([409, hindrances.join(' ')]);
  });

  test('nothing of who it was is left but in invoices, payments and the audit, and verify finds nothing wrong', async () => {
    const name = 'Zephyrine Quillfeather';
    const { id, customerId, token } = await somebody(
      {},
      { customer: { name, email: 'zephyrine@post.example', address: '1 Feather Lane' } },
    );
    await turn(1);
    await offering.done('post', `/api/customers/${customerId}/notes`, { says: `${name} is shy` });
    await offering.done('post', `/api/customers/${customerId}/messages`, { says: 'Dear Zephyrine' });
    await offering.done('post', `/api/subscriptions/${id}/alter`, { kind: 'cancel', when: 'now' });
    await turn(1);
    await world.almanac.db.rows(`update letters set state = 'sent' where customer_id = $customerId`, {
      customerId,
    });
    expect((await effectOf(customerId)).hindrances).toEqual([]);
    await offering.done('post', `/api/customers/${customerId}/erasure`);
    const texts = await world.almanac.db.rows<{ table: string; column: string }>(
      `select table_name as table, column_name as column from information_schema.columns
       where table_schema = 'public' and data_type in ('text', 'jsonb')
         and table_name in (select table_name from information_schema.tables where table_type = 'BASE TABLE')`,
    );
    const left: string[] = [];
    for (const { table, column } of texts) {
      const found = await world.almanac.db.row(
        `select 1 from "${table}" where "${column}"::text ~* 'zephyrine|feather|${token}' limit 1`,
      );
      if (found) left.push(table);
    }
    // The law of book-keeping keeps invoices; the audit and what staff were told are ours.
    expect([...new Set(left)].toSorted()).toEqual(['audit_entries', 'invoice_parties', 'staff_letters']);
    expect((await effectOf(customerId)).hindrances).toEqual(['It has been done already.']);
    const again = await offering.enrol(rateId, { customer: { id: customerId } }, false);
    expect(again.body.errors[0].pointer).toBe('/customer');
    const letters = await offering.done<{ rows: { id: string }[] }>(
      'get',
      `/api/letters?customerId=${customerId}`,
    );
    for (const letter of letters.rows)
      expect((await offering.ask('get', `/api/letters/${letter.id}`)).status).toBe(200);
  });
});
