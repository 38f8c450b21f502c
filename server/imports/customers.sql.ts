import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { CardFacts } from '../gateways/port.ts';
import { unnested } from '../db/unnested.ts';

/** What an import needs to know of a customer. */
export interface ImportedCustomer {
  readonly id: string;
  readonly reference: string;
  readonly country: string | null;
  readonly region: string;
  readonly taxExempt: string;
  readonly groupId: string | null;
}

const IMPORTED =
  'id::text, reference, country, region, tax_exempt as "taxExempt", group_id::text as "groupId"';

/** The customers that are there of some references. */
export function customersOf(
  { db }: Almanac,
  references: readonly string[],
  within: Transaction,
): Promise<ImportedCustomer[]> {
  return db.rows(
    // A join: the index for searches by letters would answer "any of so many" too, a thousand times slower.
    // Whoever was put into another record since is that one.
    `select ${IMPORTED} from unnest($references::text[]) r (reference) join customers using (reference)
     union all
     select c.id::text, k.reference, c.country, c.region, c.tax_exempt, c.group_id::text
     from unnest($references::text[]) r (reference) join merged_references k using (reference)
       join customers c on c.id = k.customer_id`,
    { references },
    within,
  );
}

/** A customer who is new, and since when they subscribe, so that they need not be written again when they do. */
export interface NewCustomer {
  readonly reference: string;
  readonly name: string;
  readonly email: string;
  readonly groupId: string | null;
  readonly phone: string;
  readonly organisation: string;
  readonly address: string;
  readonly postcode: string;
  /** The business's own fields, as they are stored. */
  readonly fields: string;
  readonly country: string | null;
  readonly region: string;
  readonly language: string;
  readonly taxNumber: string;
  readonly taxExempt: string;
  readonly since: string | null;
  /** They bring a card: its row follows. */
  readonly hasMethod: boolean;
}

/** Adds customers. */
export function insertCustomers(
  { db }: Almanac,
  customers: readonly NewCustomer[],
  createdOn: string,
  within: Transaction,
): Promise<ImportedCustomer[]> {
  const { table, bound } = unnested(
    {
      reference: 'text',
      name: 'text',
      email: 'text',
      groupId: 'bigint',
      ...{ phone: 'text', organisation: 'text', address: 'text', postcode: 'text' },
      ...{ country: 'text', region: 'text', language: 'text', fields: 'jsonb' },
      ...{ taxNumber: 'text', taxExempt: 'text' },
      since: 'date',
      hasMethod: 'boolean',
    },
    customers,
  );
  return db.rows(
    `insert into customers (reference, name, email, group_id, phone, organisation, address, postcode, country, region, language, fields, tax_number,
       tax_exempt, since, has_method, created_on)
     select reference, name, email, groupId, phone, organisation, address, postcode, country, region, language, fields, taxNumber, taxExempt, since, hasMethod,
       $createdOn::date from ${table} order by place returning ${IMPORTED}`,
    { ...bound, createdOn },
    within,
  );
}

/** A card of a file, as the gateway account that keeps it knows it. */
export type KnownCard = Omit<CardFacts, 'holder'> & { readonly accountId: string };

/** Gives customers who have none a card each, with the mandate that was brought over with it. */
export async function insertCards(
  { db }: Almanac,
  given: readonly (KnownCard & { readonly customerId: string })[],
  mandate: { readonly agreedText: string; readonly givenOn: string; readonly policyId: string | null },
  within: Transaction,
): Promise<void> {
  const { table, bound } = unnested(
    {
      ...{ customerId: 'bigint', accountId: 'bigint', token: 'text', network: 'text', lastFour: 'text' },
      ...{ expiresYear: 'int', expiresMonth: 'int' },
    },
    given,
  );
  await db.rows(
    `with cards as (
       insert into payment_methods
         (customer_id, gateway_account_id, gateway_token, network, last_four, expires_year, expires_month, state, added_on)
       select customerId, accountId, token, network, lastFour, expiresYear, expiresMonth, 'usable', $givenOn::date
       from ${table} order by place returning id)
     insert into mandates (payment_method_id, agreed_text, channel, given_on, policy_id)
     select id, $agreedText::text, 'import', $givenOn::date, $policyId::bigint from cards order by id`,
    { ...bound, ...mandate },
    within,
  );
}

/** In a dry run the subscriptions of a file are only noted, so that one that stands in it twice is known. */
export async function beginNotes({ db }: Almanac, within: Transaction): Promise<void> {
  await db.rows(
    'create temporary table noted_subscriptions (reference text primary key) on commit drop',
    {},
    within,
  );
}

/** Notes subscriptions, by their references. */
export async function noteReferences(
  { db }: Almanac,
  references: readonly string[],
  within: Transaction,
): Promise<void> {
  await db.rows('insert into noted_subscriptions select unnest($references::text[])', { references }, within);
}

/** Of some references, those that have a subscription. */
export async function subscribedOf(
  { db }: Almanac,
  references: readonly string[],
  dryRun: boolean,
  within: Transaction,
): Promise<Set<string>> {
  const found = await db.rows<{ reference: string }>(
    `select reference from unnest($references::text[]) r (reference) join subscriptions using (reference)
     ${dryRun ? 'union select reference from unnest($references::text[]) r (reference) join noted_subscriptions using (reference)' : ''}`,
    { references },
    within,
  );
  return new Set(found.map(({ reference }) => reference));
}
