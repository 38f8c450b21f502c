import type { Transaction } from 'sequelize';
import { sayRate, type SayableTerms } from '../../core/words/sayRate.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import type { RateVersionView } from './messages.ts';
import type { Rate } from './Rate.ts';

/** Keeps a rate as it is now under its version. */
export async function keepVersion(almanac: Almanac, rate: Rate, within: Transaction): Promise<void> {
  await almanac.db.rows(
    `insert into rate_versions (rate_id, version, name, terms, tax_choice, options, saved_by)
     values ($id, $version, $name, $terms::jsonb, $taxChoice::jsonb, $options::jsonb, $who)`,
    {
      id: rate.id,
      version: rate.version,
      name: rate.name,
      terms: JSON.stringify(rate.terms),
      taxChoice: JSON.stringify(rate.taxChoice),
      options: JSON.stringify(rate.options),
      who: askerNow().who,
    },
    within,
  );
}

/** Who saved a rate as it is now. */
export async function savedBy(almanac: Almanac, rate: Rate, within: Transaction): Promise<string> {
  const row = await almanac.db.row<{ who: string }>(
    'select saved_by as who from rate_versions where rate_id = $id and version = $version',
    { id: rate.id, version: rate.version },
    within,
  );
  return row?.who ?? '';
}

/** Every version of a rate, the newest first, with how many subscribe on it. */
export async function listVersions(almanac: Almanac, rateId: string): Promise<RateVersionView[]> {
  const rows = await almanac.db.rows<
    Omit<RateVersionView, 'says' | 'savedAt'> & { terms: SayableTerms; saved: Date }
  >(
    `select v.version, v.name, v.terms, v.saved_by as "savedBy", v.saved_at as saved,
       (select count(*)::int from subscriptions s
        where s.rate_id = v.rate_id and s.rate_version = v.version and s.state not in ('lapsed', 'ended')) as subscribers
     from rate_versions v where v.rate_id = $rateId order by v.version desc`,
    { rateId },
  );
  return rows.map(({ terms, saved, ...row }) => ({
    ...row,
    says: sayRate(terms),
    savedAt: saved.toISOString(),
  }));
}
