import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, inject, test } from 'vitest';
import { ROOT } from '../../command/settings.ts';
import { asking, signedIn } from '../../testing/door.ts';
import { FIRST_DAY, until, World } from '../../testing/world.ts';
import { followLaw } from '../forecast/lawChanges.ts';
import { makeApp } from '../http/app.ts';
import { changeSection, readSection } from '../settings/settings.ts';
import { verify } from '../verify/verify.ts';
import { importFiles } from './importFiles.ts';

const worlds: World[] = [];
afterAll(() => Promise.all(worlds.map((world) => world.end())));

const PLANS = { name: 'plans.json', text: readFileSync(join(ROOT, 'demo', 'plans.json'), 'utf8') };
const HEADER = 'reference,name,email,plan,rate,starts,quantity,group,card_token';
const csv = (rows: readonly string[]) => ({
  name: 'customers.csv',
  text: [HEADER, ...rows, ''].join('\r\n'),
});

/** A world with what the sample business offers, and cards that are to be brought over. */
async function begin(): Promise<World> {
  const world = await World.begin(inject('databaseUrl'));
  worlds.push(world);
  await world.moveCards(
    Array.from({ length: 20 }, (_, i) => ({ token: `brought-card-${i}`, behaviour: {} })),
  );
  expect((await importFiles(world.almanac, [PLANS], { dryRun: false })).problems).toEqual([]);
  return world;
}

/** Rows of people who subscribe to this and that from different days, some in groups, some without a card. */
const people = (count: number) => {
  const offered = [
    'hive-watch,monthly',
    'adopt-a-row,monthly',
    'apiary-ground,twice-a-month',
    'starter-kit,at-once',
  ];
  return Array.from({ length: count }, (_, i) => {
    const starts = `2027-01-${String(4 + (i % 25)).padStart(2, '0')}`;
    const chosen = i % 9 === 8 ? ',,' : `${offered[i % 4]},${starts}`;
    const card = i % 5 === 4 ? '' : `brought-card-${i % 20}`;
    return `P-${i},Person ${i},person${i}@post.example,${chosen},,${i % 3 === 0 ? `Group ${i % 2}` : ''},${card}`;
  });
};

/** All that an import leaves behind, without what differs by chance. */
async function stored({ almanac: { db } }: World) {
  return {
    customers: await db.rows(
      `select c.reference, c.name, c.email, c.created_on, c.since, g.name as in_group
       from customers c left join customer_groups g on g.id = c.group_id order by 1`,
    ),
    cards: await db.rows(
      `select c.reference, m.gateway_token, m.network, m.last_four, m.state, m.added_on, a.channel, a.given_on, a.agreed_text
       from payment_methods m join customers c on c.id = m.customer_id join mandates a on a.payment_method_id = m.id order by 1`,
    ),
    subscriptions: await db.rows(
      `select s.reference, r.key as rate, s.rate_version, s.terms, s.walk, s.state, s.starts_on, s.trial_ends_on, s.ends_on, s.wake_on,
         s.enrolled_on, s.tax_id, s.works_by, s.shift, s.extras, s.answers, s.collects, s.invoicing, s.next_on, s.next_amount,
         s.monthly, s.foresee_on
       from subscriptions s join rates r on r.id = s.rate_id order by 1`,
    ),
    planned: await db.rows(
      `select s.reference, p.charge_on, p.payments, p.amount, p.currency
       from planned_charges p join subscriptions s on s.id = p.subscription_id order by 1, 2`,
    ),
  };
}

test('many together become what each alone becomes, and what is stored ahead of them is what their terms come to', async () => {
  const [together, alone] = [await begin(), await begin()];
  const rows = people(45);
  const { problems, added } = await importFiles(together.almanac, [csv(rows)], { dryRun: false });
  expect([problems, added.customers, added.subscriptions]).toEqual([[], 45, 40]);
  for (const row of rows)
    expect((await importFiles(alone.almanac, [csv([row])], { dryRun: false })).problems).toEqual([]);
  const left = await stored(together);
  expect(left.subscriptions).toHaveLength(40);
  expect(left.cards).toHaveLength(36);
  expect(left.planned.length).toBeGreaterThan(80);
  expect(left).toEqual(await stored(alone));
  expect((await verify(together.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('a dry run counts what the import then adds, and neither a gateway that goes away nor a kill leaves anything behind', async () => {
  const world = await begin();
  const { db } = world.almanac;
  const before = await stored(world);
  const rows = people(1_200);
  // Once more: in the dry run too they are known as rows of the same file.
  const files = [csv([...rows, ...rows.slice(0, 30)])];
  const dry = await importFiles(world.almanac, files, { dryRun: true });
  expect(await stored(world)).toEqual(before);
  const away = importFiles(world.almanac, files, {
    dryRun: false,
    progress: (done) => {
      if (done === 500) void world.misbehave({ down: true });
    },
  });
  await expect(away).rejects.toThrow('The gateway does not answer.');
  await world.misbehave({});
  expect(await stored(world)).toEqual(before);

  const file = join(tmpdir(), `almanac-import-${process.pid}.csv`);
  writeFileSync(file, files[0]?.text ?? '');
  const others = new Set(world.parts.processes());
  const importing = world.parts
    .start('import', ['command/main.ts', 'import', file], world.environment, 'Added')
    .catch(() => undefined);
  const atWork = () =>
    db.rows(
      `select from pg_stat_activity where datname = current_database() and query like 'insert into subscriptions%'`,
    );
  await until(async () => (await atWork()).length > 0, 'the import at work');
  for (const pid of world.parts.processes()) if (!others.has(pid)) process.kill(pid, 'SIGKILL');
  await importing;
  await until(async () => (await atWork()).length === 0, 'the end of its transaction');
  expect(await stored(world)).toEqual(before);
  rmSync(file);

  const report = await importFiles(world.almanac, files, { dryRun: false });
  expect(report).toEqual(dry);
  expect(report.alreadyThere.customers).toBe(30);
});

test('a tax that changes while an import runs is followed by those who were brought in', async () => {
  const world = await begin();
  const { db } = world.almanac;
  const { app } = makeApp(world.almanac, world.almanac.config, '/nowhere');
  const ask = asking(app, (await signedIn(world, 'owner')).cookie);
  const value = (percent: string) => ({
    name: 'VAT',
    rates: [{ percent, mode: 'exclusive', country: null, region: '', validFrom: FIRST_DAY, validTo: null }],
  });
  const { id } = (await ask('post', '/api/taxes', { value: value('20') })).body;
  await db.rows(`update rates set tax_choice = jsonb_build_object('kind', 'tax', 'id', $id::text)`, {
    id,
  });
  const followed = () => followLaw(world.almanac, new AbortController().signal);
  // It is changed, and followed by all that a worker can see, while what was brought in is not there yet.
  let changed: Promise<number> | null = null;
  const rows = people(8_000).filter((row) => row.includes('apiary-ground'));
  await importFiles(world.almanac, [csv(rows)], {
    dryRun: false,
    progress: () => {
      changed ??= ask('put', `/api/taxes/${id}`, { version: 1, value: value('25') }).then(
        async ({ status }) => {
          await followed();
          return status;
        },
      );
    },
  });
  expect(await changed).toBe(200);
  await followed();
  const taxed = await db.row<{ n: number }>(
    'select count(*)::int as n from subscriptions where tax_id = $id',
    { id },
  );
  expect(taxed?.n).toBe(rows.length);
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('their own amounts, currencies and addresses come over, with points or commas; what does not fit is said with its line', async () => {
  const world = await begin();
  const header =
    'reference,name,email,plan,rate,starts,amount,currency,phone,organisation,address,country,region,tax_number,postcode,field:Member since';
  const row = (
    n: number,
    rate: string,
    amount: string,
    currency: string,
    country = 'Germany',
    more = 'DE136695976,80331,May 2019',
  ) =>
    `O-${n},Own ${n},own${n}@post.example,adopt-a-row,${rate},2027-01-10,"${amount}",${currency},0123,The Mill,"1 Mill Lane",${country},North,${more}`;
  const own = 'own-amount';
  const { rates } = (
    JSON.parse(PLANS.text) as {
      plans: { key: string; rates: { key: string; terms: { lines?: object[] } }[] }[];
    }
  ).plans.find(({ key }) => key === 'adopt-a-row') ?? { rates: [] };
  const chosen = rates.find(({ terms }) => JSON.stringify(terms).includes('"chosen"'))?.key ?? own;
  const fixed = rates.find(({ terms }) => !JSON.stringify(terms).includes('"chosen"'))?.key ?? '';
  const good = [
    row(1, chosen, '25,50', 'gbp'),
    row(2, chosen, '£30', ''),
    row(3, chosen, '40.00', 'GBP', 'fr', 'FR40303265045,75001,'),
  ];
  const bad = [
    row(4, fixed, '9.00', ''),
    row(5, chosen, 'plenty', ''),
    row(6, chosen, '20.00', 'EUR'),
    row(7, chosen, '20.00', 'X1'),
    row(8, chosen, '20.00', '', 'Narnia'),
    row(9, chosen, '20.00', '', 'fr', 'FR40303265054,7500,'),
  ];
  const file = (rows: readonly string[]) => ({ name: 'own.csv', text: [header, ...rows, ''].join('\r\n') });
  // A field that customers have not: said with each row.
  const unknown = await importFiles(world.almanac, [file(good)], { dryRun: true });
  expect(unknown.problems.map(({ line, says }) => `${line} ${says}`)).toEqual([
    '2 field:Member since: customers have no such field',
    '3 field:Member since: customers have no such field',
  ]);
  const { version, value } = await readSection(world.almanac, 'customers');
  await changeSection(world.almanac, 'customers', {
    version,
    value: { ...value, fields: [{ label: 'Member since', required: false }] },
  });
  const refused = await importFiles(world.almanac, [file(bad)], { dryRun: true });
  expect(refused.problems.map(({ line, says }) => `${line} ${says}`).toSorted()).toEqual([
    `2 amount: the rate "${fixed}" has a price of its own`,
    '3 amount: This is in GBP: give the figure alone, such as 1,234.50.',
    `4 currency: the rate "${chosen}" is in GBP`,
    '5 amount: "X1" is no currency that is known here',
    '6 country: is no country that is known here',
    '7 postcode: 7500 is no postcode of France',
    '7 tax_number: FR40303265054 is no tax number of France',
  ]);
  expect((await importFiles(world.almanac, [file(good)], { dryRun: false })).problems).toEqual([]);
  const brought = await world.almanac.db.rows(
    `select c.reference, c.country, c.phone, c.organisation, c.address, c.region, c.tax_number, c.postcode, c.fields, s.terms #>> '{lines,0,price,amount}' as amount
     from customers c join subscriptions s on s.customer_id = c.id order by 1`,
  );
  const same = {
    phone: '0123',
    organisation: 'The Mill',
    address: '1 Mill Lane',
    region: 'North',
  };
  const german = { ...same, tax_number: 'DE136695976', postcode: '80331' };
  const since = [{ label: 'Member since', value: 'May 2019' }];
  expect(brought).toEqual([
    { reference: 'O-1', country: 'DE', amount: '25.50', ...german, fields: since },
    { reference: 'O-2', country: 'DE', amount: '30', ...german, fields: since },
    {
      ...{ reference: 'O-3', country: 'FR', amount: '40.00', ...same },
      ...{ tax_number: 'FR40303265045', postcode: '75001', fields: [] },
    },
  ]);
});
