import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { formatDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import { checkTerms } from '../../core/terms/check.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { lettersWhere } from '../../testing/letters.ts';
import type { Almanac } from '../almanac.ts';
import { lawFactsOf, loadLaw } from '../subscriptions/law.ts';
import { invoicesAreWhatTermsSay } from '../verify/verify.ts';
import { BREACHES } from '../verify/breaches.ts';
import { Database } from './database.ts';
import { migrate } from './migrate.ts';

// A database that the release before wrote, in the middle of 43 lives: altered, resting, in trial, in a stub, lapsed.
// Beside it stands what that release said would be charged next, which is what must come after it was carried over.

const folder = new URL('../../testing/releases/', import.meta.url);
const said = JSON.parse(readFileSync(new URL('before-settlement.json', folder), 'utf8')) as {
  readonly today: string;
  readonly said: readonly { id: string; state: string; coming: string[] }[];
};

let db: Database;
let almanac: Almanac;

beforeAll(async () => {
  const name = `r_${randomBytes(6).toString('hex')}`;
  const clusterUrl = inject('databaseUrl');
  const url = clusterUrl.replace(/\/postgres$/, `/${name}`);
  await ask(clusterUrl, `create database ${name}`);
  const dump = gunzipSync(readFileSync(new URL('before-settlement.sql.gz', folder))).toString('utf8');
  await ask(url, dump);
  db = new Database(url);
  almanac = { db } as Almanac;
  await migrate(db.sequelize);
});
afterAll(() => db.close());

async function ask(url: string, statement: string): Promise<void> {
  const client = new Client({ connectionString: url });
  await client.connect();
  await client.query(statement);
  await client.end();
}

describe('a database of the release before', () => {
  test('every place goes on to the payments that were said to come', async () => {
    const law = await loadLaw(almanac);
    const differ: string[] = [];
    for (const { id, coming } of said.said) {
      const row = await db.row<{ walk: WalkPosition | null; credit: string }>(
        `select s.walk, coalesce((select sum(amount) from credit_moves m join invoices i on i.id = m.invoice_id
           where i.subscription_id = s.id), 0)::text as credit from subscriptions s where s.id = $id`,
        { id },
      );
      // What stood in its place as credit is its customer's now, and is used as it would have been.
      expect(row?.walk?.credit ?? '0').toBe('0');
      const place = row?.walk ? { ...row.walk, credit: row.credit } : undefined;
      const walk = new PaymentWalk(law.compile(await lawFactsOf(almanac, id)), place);
      const now: string[] = [];
      for (let next = walk.next(); next !== null && now.length < 12; next = walk.next()) {
        const { kind, from, to, money, credit, due } = next;
        now.push(`${kind} ${formatDay(from)} ${formatDay(to)} ${money.total} ${credit} ${due}`);
      }
      now.forEach((one, i) => {
        if (one !== coming[i]) differ.push(`${id}: ${coming[i]} became ${one}`);
      });
      expect(now, `subscription ${id}`).toHaveLength(coming.length);
    }
    expect(differ).toEqual([]);
    expect(said.said.flatMap(({ coming }) => coming).length).toBeGreaterThan(300);
  });

  test('nothing that was invoiced is any other, and nothing that must be true is not', async () => {
    const findings = await invoicesAreWhatTermsSay(almanac);
    for (const { rule, breaches } of findings) expect(breaches, rule).toEqual([]);
    for (const { rule, statement } of BREACHES) expect(await db.rows(statement), rule).toEqual([]);
    // It is the places kept that say so: by the rules of now alone, what was settled then comes to something else.
    await db.rows('update subscriptions set carried_walk = null, carried_invoices = null');
    const [without] = await invoicesAreWhatTermsSay(almanac);
    expect(without?.breaches.length).toBeGreaterThan(0);
  });

  test('terms, prices and states are named as this release names them', async () => {
    const terms = await db.rows<{ terms: Terms }>('select terms from subscriptions');
    for (const one of terms) expect(checkTerms(one.terms)).toMatchObject({ ok: true });
    const [{ schemes } = { schemes: '' }] = await db.rows<{ schemes: string }>(`
      select string_agg(distinct word, ' ' order by word) as schemes from (
        select jsonb_path_query(terms, '$.**.scheme') #>> '{}' as word from rate_versions
        union all select jsonb_path_query(extras, '$.**.scheme') #>> '{}' from plans
        union all select jsonb_path_query(to_jsonb(alterations), '$.**.scheme') #>> '{}' from alterations) words`);
    expect(schemes).toBe('each each-tier flat instalments pack reached-tier step');
    expect(await db.rows('select distinct state from invoices order by state')).toEqual([
      { state: 'issued' },
      { state: 'paid' },
    ]);
    // What is owed is owed as before.
    const owed = await db.row<{ owed: string; unpaid: string }>(`
      select (select sum(owed) from open_dues)::text as owed,
        (select sum(owed) from invoices where state = 'issued')::text as unpaid`);
    expect(owed?.owed).toBe(owed?.unpaid);
    expect(Number(owed?.owed)).toBeGreaterThan(0);
    await expect(db.rows(`update rate_versions set name = 'x'`)).rejects.toThrow('append-only');
  });

  test('the books begin with all that was invoiced and collected before, and what is posted stays', async () => {
    const held = await db.rows<{ kind: string; holds: string; is: string }>(`
      with holds as (
        select a.kind, sum(l.amount) as holds from journal_lines l join accounts a on a.id = l.account_id group by a.kind),
      known (kind, holds) as (values
        ('sales', (select -sum(net) from invoices where total <> 0)),
        ('tax', (select -sum(tax) from invoices where total <> 0)),
        ('clearing', (select sum(amount) from payments)),
        ('receivable', (select sum(greatest(total, 0) - credit_used - collected - credited) from invoices where state <> 'written off')))
      select kind, coalesce(h.holds, 0)::text as holds, coalesce(k.holds, 0)::text as is
      from known k left join holds h using (kind) order by kind`);
    expect(held).toHaveLength(4);
    for (const { kind, holds, is } of held) expect(holds, kind).toBe(is);
    expect(Number(held.find(({ kind }) => kind === 'clearing')?.holds)).toBeGreaterThan(0);
    await expect(db.rows('delete from journal')).rejects.toThrow('What is posted stays');
    await expect(db.rows(`update journal set currency = 'EUR'`)).rejects.toThrow('What is posted stays');
  });

  test('invoices keep who issued them and to whom, letters what they said', async () => {
    const invoices = await db.rows<{ parties: { to: { name: string } } }>(
      'select p.parties from invoices i join invoice_parties p on p.id = i.parties_id',
    );
    const all = await db.row<{ n: number }>('select count(*)::int as n from invoices');
    expect(invoices).toHaveLength(all?.n ?? 0);
    expect(invoices.every(({ parties }) => parties.to.name !== '')).toBe(true);
    const letters = await lettersWhere(almanac, 'true');
    expect(letters.length).toBeGreaterThan(0);
    for (const { subject, html, plain } of letters) {
      expect(html).toContain('<!doctype html>');
      expect(`${subject}${plain}`).not.toContain('{{');
    }
  });
});
