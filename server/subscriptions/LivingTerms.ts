import { toDay, type Day } from '../../core/dates/day.ts';
import { parseDecimal } from '../../core/money/decimal.ts';
import {
  compileTerms,
  TAX_RATE_PLACES,
  type CompiledTax,
  type CompiledTerms,
} from '../../core/terms/compile.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { settingsOf } from '../settings/settings.ts';

/** What a subscription and its customer leave to the law and the calendar: the columns of {@link LIVING_COLUMNS}. */
export interface LivingFacts {
  readonly terms: Terms;
  readonly tax_id: string | null;
  readonly works_by: string | null;
  readonly shift: 'next' | 'previous' | null;
  readonly country: string | null;
  readonly region: string;
  readonly tax_exempt: string;
}

/** Select these beside `s.terms`, of a subscription `s` and its customer `c`. */
export const LIVING_COLUMNS = 's.tax_id, s.works_by, s.shift, c.country, c.region, c.tax_exempt';

interface DatedRate {
  readonly taxId: string;
  readonly country: string | null;
  readonly region: string;
  readonly from: Day;
  /** First day on which it is not in force. */
  readonly to: Day;
  readonly tax: CompiledTax;
}

/**
 * The taxes and working days in force, by which agreed terms are read: terms that name a tax of their own, or
 * working days, keep them; the others follow the law as it stands on the day of each payment.
 */
export class LivingTerms {
  private constructor(
    private readonly rates: readonly DatedRate[],
    private readonly weekends: ReadonlyMap<string, readonly string[]>,
    private readonly holidays: ReadonlyMap<string, readonly string[]>,
    private readonly homeCountry: string,
  ) {}

  static async load(almanac: Almanac, within?: Transaction): Promise<LivingTerms> {
    const rates = await almanac.db.rows<{
      tax_id: string;
      percent: string;
      mode: CompiledTax['mode'];
      country: string | null;
      region: string;
      valid_from: string;
      valid_to: string | null;
    }>('select * from tax_rates order by id', {}, within);
    const days = await almanac.db.rows<{ country: string; date: string }>(
      'select country, date from holidays order by date',
      {},
      within,
    );
    const { weekends } = await settingsOf(almanac, 'calendar', within);
    const { country } = await settingsOf(almanac, 'business', within);
    const holidays = new Map<string, string[]>();
    for (const { country: of, date } of days) holidays.set(of, [...(holidays.get(of) ?? []), date]);
    return new LivingTerms(
      rates.map((rate) => ({
        taxId: rate.tax_id,
        country: rate.country,
        region: rate.region,
        from: toDay(rate.valid_from),
        to: rate.valid_to === null ? Infinity : toDay(rate.valid_to),
        tax: {
          rate: parseDecimal(rate.percent.replace(/\.?0+$/, '') || '0', TAX_RATE_PLACES),
          mode: rate.mode,
        },
      })),
      new Map(weekends.map((weekend) => [weekend.country, weekend.days])),
      holidays,
      country,
    );
  }

  /** Terms ready to compute with, by the taxes and working days in force. */
  compile(facts: LivingFacts): CompiledTerms {
    const { tax_id: taxId } = facts;
    const taxOn =
      taxId === null || facts.terms.tax !== undefined
        ? undefined
        : (day: Day) => this.taxOn(taxId, facts, day);
    return compileTerms(this.withWorkingDays(facts), taxOn);
  }

  /**
   * The tax that a customer pays on a day: the rate of their region, or else of their country, or else the one for
   * everywhere; none for an exempt customer. A customer without a country counts as one at home.
   */
  taxOn(
    taxId: string,
    customer: Pick<LivingFacts, 'country' | 'region' | 'tax_exempt'>,
    day: Day,
  ): CompiledTax | null {
    if (customer.tax_exempt !== '') return null;
    const country = customer.country ?? this.homeCountry;
    const region = customer.region.trim().toLowerCase();
    const inForce = this.rates.filter((rate) => rate.taxId === taxId && rate.from <= day && day < rate.to);
    const found =
      inForce.find(
        (rate) => rate.country === country && rate.region !== '' && rate.region.toLowerCase() === region,
      ) ??
      inForce.find((rate) => rate.country === country && rate.region === '') ??
      inForce.find((rate) => rate.country === null);
    return found?.tax ?? null;
  }

  private withWorkingDays({ terms, works_by: worksBy, shift }: LivingFacts): Terms {
    if (worksBy === null || shift === null || terms.workingDays !== undefined) return terms;
    const weekend = this.weekends.get(worksBy) ?? this.weekends.get('') ?? [];
    const holidays = [
      ...(this.holidays.get(worksBy) ?? []),
      ...(worksBy === '' ? [] : (this.holidays.get('') ?? [])),
    ];
    const workingDays = { shift, weekend: [...weekend], holidays } as NonNullable<Terms['workingDays']>;
    return { ...terms, workingDays };
  }
}

/** The living facts of one subscription. */
export async function livingFactsOf(
  almanac: Almanac,
  subscriptionId: string,
  within?: Transaction,
): Promise<LivingFacts> {
  const facts = await almanac.db.row<LivingFacts>(
    `select s.terms, ${LIVING_COLUMNS} from subscriptions s join customers c on c.id = s.customer_id where s.id = $subscriptionId`,
    { subscriptionId },
    within,
  );
  if (!facts) throw new Error(`There is no subscription ${subscriptionId}.`);
  return facts;
}
