import type { Transaction } from 'sequelize';
import { Law, type LawData, type LawFacts } from '../../core/terms/law.ts';
import type { Almanac } from '../almanac.ts';
import type { PaymentKind } from '../settings/messages.ts';
import { readOnce } from '../db/readOnce.ts';
import { settingsOf } from '../settings/settings.ts';

/** Select these beside `s.terms`, of a subscription `s` and its customer `c`: with them they are the facts of the law. */
export const LAW_COLUMNS = `s.tax_id, s.line_sources, s.works_by, s.shift, coalesce(s.served_at ->> 'country', c.country) as country,
  coalesce(s.served_at ->> 'region', c.region) as region, c.tax_exempt`;

/** The taxes and calendars as they are set now. */
export async function readLaw(almanac: Almanac, within?: Transaction): Promise<LawData> {
  const rates = await almanac.db.rows<LawData['rates'][number]>(
    `select tax_id::text as "taxId", t.name, trim(trailing '.' from trim(trailing '0' from percent::text)) as percent, mode,
       country, region, valid_from as "from", valid_to as "to"
     from tax_rates r join taxes t on t.id = r.tax_id order by r.id`,
    {},
    within,
  );
  const holidays = await almanac.db.rows<LawData['holidays'][number]>(
    'select country, date from holidays order by date',
    {},
    within,
  );
  const { weekends } = await settingsOf(almanac, 'calendar', within);
  const { country } = await settingsOf(almanac, 'business', within);
  const { said } = await settingsOf(almanac, 'taxing', within);
  return { rates, weekends, holidays, homeCountry: country, said };
}

/** The law by which subscriptions are computed now. */
export function loadLaw(almanac: Almanac, within?: Transaction): Promise<Law> {
  return readOnce(within, 'the law', async () => new Law(await readLaw(almanac, within)));
}

/** Where due dates move that fall on a day not worked, by how it is paid; null: they stay. */
export async function shiftsOf(
  almanac: Almanac,
  within?: Transaction,
): Promise<Record<PaymentKind, 'next' | 'previous' | null>> {
  const { shifts } = await settingsOf(almanac, 'calendar', within);
  const set = (kind: PaymentKind) => (shifts[kind] === 'none' ? null : shifts[kind]);
  return { card: set('card'), 'bank debit': set('bank debit'), 'by invoice': set('by invoice') };
}

/** What one subscription and its customer leave to the law. */
export async function lawFactsOf(
  almanac: Almanac,
  subscriptionId: string,
  within?: Transaction,
): Promise<LawFacts> {
  const facts = await almanac.db.row<LawFacts>(
    `select s.terms, ${LAW_COLUMNS} from subscriptions s join customers c on c.id = s.customer_id where s.id = $subscriptionId`,
    { subscriptionId },
    within,
  );
  if (!facts) throw new Error(`There is no subscription ${subscriptionId}.`);
  return facts;
}
