import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';

let world: World;
let offering: Offering;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(() => world.end());

test('the first letter is shown as it is then sent, word for word, and showing it writes to nobody', async () => {
  const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '19.00' } }];
  const { rateId } = await offering.plan({ name: 'Adopt a Row', outerName: 'Your <Row>' }, { lines });
  const { customerId } = await offering.done<{ customerId: string }>(
    'get',
    `/api/subscriptions/${await offering.enrolled(rateId)}`,
  );
  const starts = await offering.today();
  const firstWords = 'Mind the geese & the <gate>.';
  const asked = { rateId, customerId, starts, firstWords };
  const preview = (more: object) =>
    offering.done<{ subject: string; html: string; isOn: boolean }>('post', '/api/first-letter', {
      ...{ ...asked, first: { due: '1900', dueOn: starts, currency: 'GBP' }, pays: 'file' },
      ...more,
    });
  const before = await world.almanac.db.rows('select 1 from letters');
  const shown = await preview({});
  expect(shown.isOn).toBe(true);
  expect(shown.html).toContain('Mind the geese &amp; the &lt;gate&gt;.');
  expect((await preview({ pays: 'invoice' })).html).not.toEqual(shown.html);
  expect(await world.almanac.db.rows('select 1 from letters')).toEqual(before);

  const id = await offering.enrolled(
    rateId,
    { customer: { id: customerId }, firstWords, starts, staffNote: 'Her brother keeps bees' },
    false,
  );
  await world.turnTo('2027-01-05');
  const letter = await world.almanac.db.row<{ id: string }>(
    `select id::text from letters where subscription_id = $id and event = 'started'`,
    { id },
  );
  const sent = await offering.done<{ subject: string; html: string }>('get', `/api/letters/${letter?.id}`);
  // Where it is read its links open beside it.
  const html = sent.html.replace('<base target="_blank">', '');
  expect({ subject: sent.subject, html }).toEqual({ subject: shown.subject, html: shown.html });
  // What is noted for staff stands with the customer, and in no letter.
  const noted = await world.almanac.db.rows(
    `select says, subscription_id::text as id from notes where customer_id = $customerId`,
    { customerId },
  );
  expect(noted).toEqual([{ says: 'Her brother keeps bees', id }]);
  expect(html).not.toContain('brother');
});
