import type { Transaction } from 'sequelize';
import { sayRate, type SayableTerms } from '../../core/words/sayRate.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import type { RateSubscriber, RateVersionView } from './messages.ts';
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

/** Whether any subscription is to be on another version by a day, as the one item of a step. */
export const MOVES_DUE = `
  select 'all' as item where exists (
    select 1 from subscription_moves sm join rate_moves m on m.id = sm.move_id join subscriptions s on s.id = sm.subscription_id
    where sm.effective_on <= $businessDate and s.rate_version < m.to_version and s.state not in ('lapsed', 'ended'))`;

/** The moves whose day has come: from then on the subscriptions are on the version that they moved to. */
export async function takeMoves(almanac: Almanac, businessDate: string): Promise<void> {
  await almanac.db.rows(
    `update subscriptions s set rate_version = m.version
     from (select sm.subscription_id, max(m.to_version) as version from subscription_moves sm
           join rate_moves m on m.id = sm.move_id where sm.effective_on <= $businessDate group by 1) m
     where s.id = m.subscription_id and s.rate_version < m.version and s.state not in ('lapsed', 'ended')`,
    { businessDate },
  );
}

/** Every version of a rate, the newest first, with how many subscribe on it and how many are to move to it. */
export async function listVersions(almanac: Almanac, rateId: string): Promise<RateVersionView[]> {
  const rows = await almanac.db.rows<
    Omit<RateVersionView, 'says' | 'savedAt'> & { terms: SayableTerms; saved: Date }
  >(
    `select v.version, v.name, v.terms, v.saved_by as "savedBy", v.saved_at as saved,
       (select count(*)::int from subscriptions s
        where s.rate_id = v.rate_id and s.rate_version = v.version and s.state not in ('lapsed', 'ended')) as subscribers,
       (select count(*)::int from subscription_moves sm join rate_moves m on m.id = sm.move_id
        join subscriptions s on s.id = sm.subscription_id
        where m.rate_id = v.rate_id and m.to_version = v.version and s.rate_version < v.version
          and s.state not in ('lapsed', 'ended')) as coming
     from rate_versions v where v.rate_id = $rateId order by v.version desc`,
    { rateId },
  );
  return rows.map(({ terms, saved, ...row }) => ({
    ...row,
    says: sayRate(terms),
    savedAt: saved.toISOString(),
  }));
}

/** Who subscribes to a rate, by the version they are on. */
export function listSubscribersOf(
  almanac: Almanac,
  rateId: string,
  query: ListQuery,
): Promise<Page<RateSubscriber>> {
  return readPage<RateSubscriber>(
    almanac.db,
    {
      select: `
        select s.id::text, c.name as customer, s.state, s.rate_version as version, s.starts_on as since,
          m.to_version as "movesTo", m.effective_on as "movesOn"
        from subscriptions s join customers c on c.id = s.customer_id
        left join lateral (
          select m.to_version, sm.effective_on from subscription_moves sm join rate_moves m on m.id = sm.move_id
          where sm.subscription_id = s.id and m.to_version > s.rate_version order by m.to_version desc limit 1) m on true
        where s.rate_id = $rateId and s.state not in ('lapsed', 'ended') and c.name ilike $pattern
          and ($state = '' or 'version ' || s.rate_version = $state)`,
      bound: { rateId, pattern: likePattern(query.search), state: query.state },
      sorts: { customer: 'customer', version: 'version', since: 'since', moves: '"movesOn"' },
    },
    query,
  );
}
