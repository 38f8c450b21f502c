import { shortestTrialDays, trialNoticeDays } from '../../core/offer/trialNotice.ts';
import { sayCountry } from '../../core/words/countries.ts';
import type { Almanac } from '../almanac.ts';
import { settingsOf } from '../settings/settings.ts';
import { line, there, type Finding } from './finding.ts';

interface Tried {
  readonly plan: string;
  readonly plan_id: string;
  readonly rate: string;
  readonly length: string;
  readonly asked: number | null;
}

/** Trials that are shorter than the notice which a country asks for, or are told of on their first day. */
export async function trialLooks(almanac: Almanac): Promise<Finding[]> {
  const tried = await almanac.db.rows<Tried>(
    `select p.name as plan, p.id::text as plan_id, r.name as rate, r.terms #>> '{trial,length}' as length,
       (r.options ->> 'trialNoticeDays')::int as asked
     from rates r join plans p on p.id = r.plan_id
     where p.archived_on is null and r.archived_on is null and r.terms ? 'trial' order by p.id, r.id`,
  );
  if (tried.length === 0) return [];
  const { serves, trialNotices } = await settingsOf(almanac, 'customers');
  const inForce = trialNotices.filter(({ country }) => serves.length === 0 || serves.includes(country));
  const findings = tried.flatMap((one): Finding[] => {
    const trialDays = shortestTrialDays(one.length) ?? 0;
    const breached = inForce.filter(({ days }) => days >= trialDays);
    const onFirstDay = trialNoticeDays({ trialDays, asked: one.asked, required: null }) >= trialDays;
    if (breached.length === 0 && !onFirstDay) return [];
    const where = breached.map(({ country, days }) => `${sayCountry(country)} (${days} days)`).join(', ');
    return [
      line(
        `trial-notice-${one.plan_id}-${one.rate}`,
        false,
        `The trial of ${one.plan}, ${one.rate}, is too short to be told of its end in time`,
        breached.length > 0
          ? `It lasts ${trialDays} days, and the notice asked for is no shorter in ${where}.`
          : `It lasts ${trialDays} days and its end is told of on the first of them.`,
        there('Open the plan', `/plans/${one.plan_id}`),
        there('Look at the countries', '/setup/customers'),
      ),
    ];
  });
  return findings.length > 0 ? findings : ['Trials are told of before they end, as their countries ask'];
}
