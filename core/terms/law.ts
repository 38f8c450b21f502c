import { toDay, type Day } from '../dates/day.ts';
import { WEEKDAYS } from '../dates/weekday.ts';
import type { WorkingDays } from '../dates/workingDay.ts';
import { parseDecimal } from '../money/decimal.ts';
import { compileTerms } from './compile.ts';
import { TAX_RATE_PLACES, type CompiledTax, type CompiledTerms } from '../agreed/terms.ts';
import type { TaxSaid } from '../words/sayTax.ts';
import type { Terms, TermsLine } from './schema.ts';

/** A dated rate of a tax. `from` is the first day in force, `to` the first that is not any more. */
export interface LawRate {
  readonly taxId: string;
  /** What the tax is called. */
  readonly name: string;
  readonly percent: string;
  readonly mode: CompiledTax['mode'];
  readonly country: string | null;
  readonly region: string;
  readonly from: string;
  readonly to: string | null;
}

/** The taxes and calendars of a business, as plain data. An empty country means everywhere else. */
export interface LawData {
  readonly rates: readonly LawRate[];
  readonly weekends: readonly { readonly country: string; readonly days: readonly string[] }[];
  readonly holidays: readonly { readonly country: string; readonly date: string }[];
  /** Where a customer counts as living whose country is not known. */
  readonly homeCountry: string;
  /** Whether the business thinks in prices without tax or with it: how they are said, never what is charged. */
  readonly said: 'net' | 'gross';
}

/** What a subscription and its customer leave to the law and the calendar. */
export interface LawFacts {
  readonly terms: Terms;
  readonly tax_id: string | null;
  readonly works_by: string | null;
  readonly shift: 'next' | 'previous' | null;
  readonly country: string | null;
  readonly region: string;
  readonly tax_exempt: string;
  /** The lines that are of other plans; null or absent: none. */
  readonly line_sources?: readonly LineSource[] | null;
}

/** A line of another plan: the tax and the account of its own rate. */
export interface LineSource {
  /** The name of the line. */
  readonly line: string;
  readonly taxId: string | null;
  /** Account of the books; empty for the usual one of sales. */
  readonly account: string;
}

type Customer = Pick<LawFacts, 'country' | 'region' | 'tax_exempt'>;

/**
 * The taxes and working days in force, by which agreed terms are read: terms that name a tax of their own, or
 * working days, keep them; the others follow the law as it stands on the day of each payment. Server and browser
 * read it alike, so that what is shown before is what is charged.
 */
export class Law {
  private readonly rates: readonly (Omit<LawRate, 'from' | 'to'> & {
    readonly first: Day;
    readonly end: Day;
    readonly tax: CompiledTax;
  })[];

  constructor(private readonly data: LawData) {
    this.rates = data.rates.map(({ from, to, ...rate }) => ({
      ...rate,
      region: rate.region.trim().toLowerCase(),
      first: toDay(from),
      end: to === null ? Infinity : toDay(to),
      tax: { rate: parseDecimal(rate.percent, TAX_RATE_PLACES), mode: rate.mode },
    }));
  }

  /** Terms ready to compute with, by the taxes and working days in force. */
  compile(facts: LawFacts): CompiledTerms {
    const { tax_id: taxId, line_sources: sources } = facts;
    const terms = this.withWorkingDays(facts);
    if (facts.terms.tax !== undefined) return compileTerms(terms);
    if (!sources || sources.length === 0)
      return compileTerms(terms, taxId === null ? undefined : (day) => this.taxOn(taxId, facts, day));
    const taxOf = new Map(sources.map((source) => [source.line, source.taxId]));
    return compileTerms(
      terms,
      (day, line) => this.taxOn(line === undefined ? taxId : (taxOf.get(line) ?? null), facts, day),
      [...taxOf.keys()],
    );
  }

  /**
   * The tax that a customer pays on a day: the rate of their region, or else of their country, or else the one for
   * everywhere else; none for an exempt customer.
   * @returns the same object for the same rate
   */
  taxOn(taxId: string | null, customer: Customer, day: Day): CompiledTax | null {
    if (taxId === null || customer.tax_exempt !== '') return null;
    return this.rateOn(taxId, customer, day)?.tax ?? null;
  }

  /**
   * The tax on the prices of terms, as it is said beside them: that of the terms themselves, or else by law.
   * @returns null where none is paid, undefined where the business knows no taxes
   */
  taxSaid(facts: Pick<LawFacts, 'terms' | 'tax_id' | keyof Customer>, day: Day): TaxSaid {
    const { said } = this.data;
    const own = facts.terms.tax;
    if (own && /^0+(\.0+)?$/.test(own.rate)) return null;
    if (own) return { percent: own.rate, mode: own.mode, name: 'tax', said };
    if (this.data.rates.length === 0) return undefined;
    if (facts.tax_id === null || facts.tax_exempt !== '') return null;
    const rate = this.rateOn(facts.tax_id, facts, day);
    return rate ? { percent: rate.percent, mode: rate.mode, name: rate.name, said } : null;
  }

  /** The tax that a line of terms bears on a day: its own, or that of the terms, or else by law. */
  taxOfLine(facts: LawFacts, line: Pick<TermsLine, 'name' | 'tax'>, day: Day): CompiledTax | null {
    const fixed = line.tax ?? facts.terms.tax;
    if (fixed) return { rate: parseDecimal(fixed.rate, TAX_RATE_PLACES), mode: fixed.mode };
    const source = (facts.line_sources ?? []).find((one) => one.line === line.name);
    return this.taxOn(source ? source.taxId : facts.tax_id, facts, day);
  }

  private rateOn(taxId: string, customer: Customer, day: Day) {
    const country = customer.country ?? this.data.homeCountry;
    const region = customer.region.trim().toLowerCase();
    const inForce = this.rates.filter((rate) => rate.taxId === taxId && rate.first <= day && day < rate.end);
    return (
      inForce.find((rate) => rate.country === country && rate.region !== '' && rate.region === region) ??
      inForce.find((rate) => rate.country === country && rate.region === '') ??
      inForce.find((rate) => rate.country === null)
    );
  }

  /** Which days are worked where the business is; a day that is not moves to the next that is. */
  homeWorkingDays(): WorkingDays {
    const { weekend, holidays } = this.daysOff(this.data.homeCountry);
    return {
      shift: 'next',
      weekend: new Set(weekend.map((day) => WEEKDAYS.indexOf(day as (typeof WEEKDAYS)[number]))),
      holidays: new Set(holidays.map((date) => toDay(date))),
    };
  }

  private daysOff(country: string): { weekend: string[]; holidays: string[] } {
    const { weekends, holidays } = this.data;
    const of = (where: string) => weekends.find((weekend) => weekend.country === where)?.days;
    return {
      weekend: [...(of(country) ?? of('') ?? [])],
      holidays: holidays
        .filter((holiday) => holiday.country === country || holiday.country === '')
        .map(({ date }) => date),
    };
  }

  private withWorkingDays({ terms, works_by: worksBy, shift }: LawFacts): Terms {
    if (worksBy === null || shift === null || terms.workingDays !== undefined) return terms;
    const workingDays = { shift, ...this.daysOff(worksBy) };
    return { ...terms, workingDays: workingDays as NonNullable<Terms['workingDays']> };
  }
}
