import { randomBytes } from 'node:crypto';
import { Client } from 'pg';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Database } from './database.ts';
import { migrate } from './migrate.ts';

let db: Database;
beforeAll(async () => {
  const name = `m_${randomBytes(6).toString('hex')}`;
  const clusterUrl = inject('databaseUrl');
  const client = new Client({ connectionString: clusterUrl });
  await client.connect();
  await client.query(`create database ${client.escapeIdentifier(name)}`);
  await client.end();
  db = new Database(clusterUrl.replace(/\/postgres$/, `/${name}`));
  await migrate(db.sequelize, '0005-changed-by');
});
afterAll(() => db.close());

/** A business of the release before, in the middle of its work: a charge is under way, rates are paid by two switches. */
const BEFORE = `
  insert into business (name, home_currency, time_zone, sender_address, statement_text, practice, business_date)
    values ('Fenmarsh Hives', 'GBP', 'Europe/London', 'a@hives.example', 'FENMARSH HIVES', true, '2027-01-10');
  insert into gateway_accounts (address, account, name, kind, public_key, secret_key, connected_by, connected_on, facts)
    values ('http://127.0.0.1', 'cards', 'Cards', 'card gateway', 'p', 's', 'environment', '2027-01-01', '{}');
  insert into plans (key, name, statement_text) values ('hives', 'Hives', 'HIVES'), ('rows', 'Rows', null);
  insert into rates (plan_id, key, name, terms, options) values
    (1, 'monthly', 'Monthly', '{"currency":"GBP"}', '{"collects":"automatic","methods":["card","invoice"]}'),
    (2, 'by-hand', 'By hand', '{"currency":"GBP"}', '{"collects":"by hand","methods":["card"],"account":"4000"}');
  insert into rate_versions (rate_id, version, name, terms, tax_choice, saved_by, options)
    select id, 1, name, terms, tax_choice, '', options from rates;
  insert into variants (plan_id, key, name) values (1, 'large', 'Large');
  insert into customers (reference, name, email, created_on) values ('C-1', 'Ada', 'ada@post.example', '2027-01-01');
  insert into payment_methods (customer_id, gateway_token, network, last_four, expires_year, expires_month, added_on, gateway_account_id)
    values (1, 'card-token-of-ada', 'Larkfield', '4242', 2031, 5, '2027-01-01', 1);
  insert into subscriptions (reference, customer_id, rate_id, terms, state, starts_on, enrolled_on)
    values ('S-1', 1, 1, '{"currency":"GBP"}', 'active', '2027-01-04', '2027-01-04'),
           ('S-2', 1, 2, '{"currency":"GBP"}', 'active', '2027-01-04', '2027-01-04');
  insert into invoices (number, prefix, subscription_id, customer_id, kind, period_from, period_to, issued_on, due_on, currency,
                        lines, taxes, discount, net, tax, total, collected, state)
    values (1, 'FH-', 1, 1, 'period', '2027-01-04', '2027-02-04', '2027-01-04', '2027-01-04', 'GBP', '[]', '[]', 0, 1000, 0, 1000, 1000, 'paid'),
           (2, 'FH-', 1, 1, 'period', '2027-02-04', '2027-03-04', '2027-01-10', '2027-01-10', 'GBP', '[]', '[]', 0, 1000, 0, 1000, 0, 'open'),
           (3, 'FH-', 2, 1, 'period', '2027-02-04', '2027-03-04', '2027-01-10', '2027-01-10', 'GBP', '[]', '[]', 0, 700, 0, 700, 0, 'open');
  insert into attempts (invoice_id, payment_method_id, idempotency_key, amount, reason, channel, state, attempted_on, response_code)
    values (1, 1, 'k-1', 1000, 'renewal', 'import', 'collected', '2027-01-04', '00'),
           (2, 1, 'k-2', 1000, 'renewal', 'import', 'pending', '2027-01-10', null),
           (3, 1, 'k-3', 700, 'by the customer', 'customer', 'pending', '2027-01-10', null);
  insert into people (name, email, role) values ('Olga', 'olga@staff.example', 'owner');
  insert into sessions (token_hash, person_id, expires_at) values ('\\x00', 1, now() + interval '1 hour');
  insert into customer_links (customer_id, subscription_id, expires_on) values (1, 1, '2027-02-01');
  insert into idempotency_keys (asker, key, fingerprint) values ('person 1', 'k', '\\x00');
`;

test('a database of the release before is brought over as it stands, in the middle of its work', async () => {
  await db.sequelize.query(BEFORE);
  await migrate(db.sequelize);

  // What is under way keeps the very request that it may have been sent with, and is asked for before it is sent again.
  const attempts = await db.rows(
    'select state, gateway_account_id::text as account, request, sent_at is not null as sent from attempts order by id',
  );
  const request = { token: 'card-token-of-ada', currency: 'GBP', businessDate: '2027-01-10' };
  expect(attempts).toEqual([
    { state: 'collected', account: '1', request: null, sent: false },
    {
      ...{ state: 'under way', account: '1', sent: true },
      request: {
        ...{ ...request, amount: '1000', channel: 'import' },
        ...{ statementText: 'HIVES', reference: 'invoice FH-2' },
      },
    },
    {
      ...{ state: 'under way', account: '1', sent: true },
      request: {
        ...{ ...request, amount: '700', channel: 'customer' },
        ...{ statementText: 'FENMARSH HIVES', reference: 'invoice FH-3' },
      },
    },
  ]);

  // One switch is left for how a rate is paid, on every version of it; versions are closed to changes as before.
  const paid = [{ methods: ['card', 'invoice'] }, { methods: ['invoice'], account: '4000' }];
  for (const table of ['rates', 'rate_versions'])
    expect(await db.rows(`select options from ${table} order by name desc`)).toEqual(
      paid.map((options) => ({ options })),
    );
  await expect(db.rows(`update rate_versions set name = 'x'`)).rejects.toThrow('append-only');

  expect(await db.rows('select rates from variants')).toEqual([{ rates: [] }]);
  expect(await db.rows('select ended_why from customer_links')).toEqual([{ ended_why: null }]);
  const sessions = await db.rows(`select confirmed_at > now() - interval '1 hour' as fresh from sessions`);
  expect(sessions).toEqual([{ fresh: true }]);
  const keys = await db.rows('select status, done_at from idempotency_keys');
  expect(keys).toEqual([{ status: null, done_at: null }]);
});

test('every foreign key of a table that grows is found by an index', async () => {
  const rows = await db.rows<{ said: string }>(`
    select c.conrelid::regclass || ' (' || a.attname || ')' as said
    from pg_constraint c join pg_attribute a on a.attrelid = c.conrelid and a.attnum = c.conkey[1]
    where c.contype = 'f'
      and c.conrelid::regclass::text in ('invoices', 'letters', 'recovery_cases', 'subscription_moves', 'customer_links',
                                         'mandates', 'attempts', 'payments', 'dues', 'rungs_climbed', 'subscriptions')
      and a.attname in ('subscription_id', 'case_id', 'customer_id', 'invoice_id', 'payment_method_id', 'rate_id')
      and not exists (select 1 from pg_index i where i.indrelid = c.conrelid and i.indkey[0] = c.conkey[1])
    order by 1`);
  expect(rows.map(({ said }) => said)).toEqual(['attempts (payment_method_id)']);
});

test('run again it changes nothing', async () => {
  const count = () => db.rows('select name from migrations order by name');
  const before = await count();
  await migrate(db.sequelize);
  expect(await count()).toEqual(before);
  expect(before.length).toBeGreaterThanOrEqual(9);
});
