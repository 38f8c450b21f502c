import { once } from 'node:events';
import { Client } from 'pg';
import pMap from 'p-map';
import { Pool } from 'undici';

/** The tables whose rows a renewal leaves behind, in an order in which they can be written. */
const ROWS = ['invoices', 'attempts', 'payments', 'journal', 'letters'] as const;
const BATCH = 500;

/**
 * What plain batched SQL does on this machine: the very rows that renewals have left in one database are written into
 * another, with the same tables, indexes and checks, in batches of 500 by unnested arrays over two connections; each batch
 * also moves its subscriptions on. Nothing is computed and nobody is asked.
 * @returns renewals a second
 */
export async function plainSql(from: string, to: string): Promise<number> {
  const source = new Client({ connectionString: from });
  await source.connect();
  const writers = [new Client({ connectionString: to }), new Client({ connectionString: to })];
  await Promise.all(writers.map((writer) => writer.connect()));
  try {
    const [first] = writers;
    if (!first) throw new Error('There is no connection.');
    await first.query(`set session_replication_role = replica`);
    await first.query('truncate invoices, attempts, payments, journal, letters, dues cascade');
    await copyAll(source, first, ['letter_forms', 'letter_looks', 'invoice_parties']);
    await first.query(`set session_replication_role = origin`);
    const invoices = await source.query<{ id: string; subscription_id: string }>(
      `select id::text, subscription_id::text from invoices order by id`,
    );
    const columns = new Map<string, readonly { name: string; type: string }[]>();
    for (const name of ROWS) columns.set(name, await columnsOf(source, name));
    const batches: { subscriptions: string[]; rows: Map<string, string[][]> }[] = [];
    for (let at = 0; at < invoices.rows.length; at += BATCH) {
      const some = invoices.rows.slice(at, at + BATCH);
      const ids = some.map(({ id }) => id);
      const rows = new Map<string, string[][]>();
      for (const name of ROWS) rows.set(name, await valuesOf(source, name, columns.get(name) ?? [], ids));
      batches.push({ subscriptions: some.map(({ subscription_id }) => subscription_id), rows });
    }
    const began = performance.now();
    const queue = [...batches];
    await Promise.all(
      writers.map(async (writer) => {
        for (let batch = queue.shift(); batch; batch = queue.shift()) {
          await writer.query('begin');
          for (const name of ROWS)
            await insert(writer, name, columns.get(name) ?? [], batch.rows.get(name) ?? []);
          await writer.query(
            `update subscriptions s set walk = x.walk, wake_on = x.wake_on, state = 'active', held_on = null
             from unnest($1::bigint[], $2::jsonb[], $3::date[]) as x (id, walk, wake_on) where s.id = x.id`,
            [
              batch.subscriptions,
              batch.subscriptions.map(() => '{"version": 2, "credit": "0"}'),
              batch.subscriptions.map(() => '2027-03-15'),
            ],
          );
          await writer.query('commit');
        }
      }),
    );
    return invoices.rows.length / ((performance.now() - began) / 1000);
  } finally {
    await Promise.all([source, ...writers].map((client) => client.end()));
  }
}

async function columnsOf(client: Client, name: string): Promise<{ name: string; type: string }[]> {
  const { rows } = await client.query<{ name: string; type: string }>(
    `select attname as name, format_type(atttypid, null) as type from pg_attribute
     where attrelid = $1::regclass and attnum > 0 and not attisdropped order by attnum`,
    [name],
  );
  return rows;
}

/** The rows of a table that belong to invoices, as text, column by column. */
async function valuesOf(
  client: Client,
  name: string,
  columns: readonly { name: string }[],
  invoices: readonly string[],
): Promise<string[][]> {
  const belongs = {
    invoices: 't.id = any($1::bigint[])',
    attempts: 't.invoice_id = any($1::bigint[])',
    payments: 't.invoice_id = any($1::bigint[])',
    journal: 't.invoice_id = any($1::bigint[])',
    letters: `t.once_key in (select 'receipt:' || p.id from payments p where p.invoice_id = any($1::bigint[]))`,
  }[name as (typeof ROWS)[number]];
  const { rows } = await client.query<string[]>({
    text: `select ${columns.map((column) => `t."${column.name}"::text`).join(', ')} from ${name} t where ${belongs} order by t.id`,
    values: [invoices],
    rowMode: 'array',
  });
  return columns.map((_, at) => rows.map((row) => row[at] ?? (null as unknown as string)));
}

/** Arrays inside of arrays have no way through `unnest`: columns that hold some go as text. */
const unnestedType = (type: string) => (type.endsWith('[]') ? 'text' : type);

async function insert(
  client: Client,
  name: string,
  columns: readonly { name: string; type: string }[],
  values: readonly string[][],
): Promise<void> {
  if ((values[0]?.length ?? 0) === 0) return;
  const names = columns.map((column) => `"${column.name}"`).join(', ');
  const cast = columns.map(({ name: column, type }) => `x."${column}"::${type}`).join(', ');
  const arrays = columns.map(({ type }, at) => `$${at + 1}::${unnestedType(type)}[]`).join(', ');
  await client.query(
    `insert into ${name} (${names}) overriding system value select ${cast} from unnest(${arrays}) as x (${names})`,
    [...values],
  );
}

async function copyAll(from: Client, to: Client, names: readonly string[]): Promise<void> {
  for (const name of names) {
    const columns = await columnsOf(from, name);
    const { rows } = await from.query<string[]>({
      text: `select ${columns.map((column) => `"${column.name}"::text`).join(', ')} from ${name}`,
      rowMode: 'array',
    });
    await to.query(`truncate ${name} cascade`);
    for (let at = 0; at < rows.length; at += 5000) {
      const some = rows.slice(at, at + 5000);
      await insert(
        to,
        name,
        columns,
        columns.map((_, n) => some.map((row) => row[n] ?? '')),
      );
    }
  }
}

/**
 * What bare HTTP does: so many charges asked of the gateway stand-in over kept-alive connections, and nothing else.
 * @returns charges a second
 */
export async function bareHttp(
  address: string,
  secretKey: string,
  lanes: number,
  tokens: readonly string[],
): Promise<number> {
  const pool = new Pool(address, { connections: lanes });
  const run = Math.random().toString(36).slice(2);
  const began = performance.now();
  await pMap(
    tokens,
    async (token, i) => {
      const { statusCode, body } = await pool.request({
        method: 'POST',
        path: '/v1/charges',
        headers: {
          authorization: `Bearer ${secretKey}`,
          'content-type': 'application/json',
          'idempotency-key': `bare:${run}:${i}`,
        },
        body: JSON.stringify({
          ...{ token, amount: '3300', currency: 'GBP', statementText: 'FENMARSH HIVES' },
          ...{ reference: 'invoice 1', channel: 'import', date: '2027-02-15' },
        }),
      });
      await body.text();
      if (statusCode !== 201) throw new Error(`The gateway answered ${statusCode}.`);
    },
    { concurrency: lanes },
  );
  const rate = tokens.length / ((performance.now() - began) / 1000);
  const closed = once(pool, 'disconnect').catch(() => undefined);
  await pool.close();
  void closed;
  return rate;
}
