import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import { parseDecimal } from '../../core/money/decimal.ts';
import { outlineOf } from '../../core/listing/outline.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import { TAX_RATE_PLACES, type CompiledTax } from '../../core/agreed/terms.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Almanac } from '../almanac.ts';
import { inBatches } from '../db/inBatches.ts';
import type { KeptLawTax } from '../invoices/invoiceParts.ts';
import { BREACHES, firstOf } from './breaches.ts';
import { paymentsAreCharges } from './charges.ts';
import type { Finding } from './finding.ts';
import { foresightIsWhatTermsSay } from './foresight.ts';

/** Checks what must always be true (engine) on a database and against the gateway's own record. Changes nothing. */
export async function verify(almanac: Almanac): Promise<Finding[]> {
  // The database looks through its tables while terms are walked here.
  const looking = brokenRules(almanac);
  looking.catch(() => undefined);
  const walked = [...(await invoicesAreWhatTermsSay(almanac)), await foresightIsWhatTermsSay(almanac)];
  return [...(await looking), ...walked, await paymentsAreCharges(almanac)];
}

/** The rules that are statements. */
function brokenRules({ db }: Almanac): Promise<Finding[]> {
  return db.transaction(async (within) => {
    const findings: Finding[] = [];
    // They sort and hash whole tables.
    await db.rows(`set local work_mem = '128MB'`, {}, within);
    for (const { rule, statement } of BREACHES) {
      const rows = await db.rows<{ breach: string }>(firstOf(statement), {}, within);
      findings.push({ rule, breaches: rows.map(({ breach }) => breach) });
    }
    return findings;
  });
}

interface Issued {
  readonly id: string;
  readonly terms: Terms;
  /** It goes on, and nothing holds it: what its terms come to must have been invoiced by now. */
  readonly goes_on: boolean;
  readonly by_law: boolean;
  readonly whole: boolean;
  /** The day on which it was over, where it has come to the end of its terms. */
  readonly ended_on: string | null;
  /** The place at which a release before handed it over, and how many invoices it had then. */
  readonly carried: WalkPosition | null;
  readonly carried_invoices: number | null;
  readonly invoices: readonly {
    number: string;
    kind: string;
    from: string;
    total: string;
    law_tax: KeptLawTax | null;
  }[];
}

/**
 * Lists every subscription's payments anew from its terms and holds its invoices against them: each is what the terms
 * come to, and none is missing of a day that was turned.
 */
export async function invoicesAreWhatTermsSay(almanac: Almanac): Promise<Finding[]> {
  const turned = await almanac.db.row<{ last: string | null }>(
    'select max(business_date) as last from days where finished_at is not null',
  );
  const lastTurned = turned?.last ? toDay(turned.last) : -Infinity;
  const breaches: string[] = [];
  const missing: string[] = [];
  for await (const some of inBatches((after) => issuedAfter(almanac, after)))
    for (const one of some) {
      const fault = faultOf(one, lastTurned);
      if (fault) (fault.isMissing ? missing : breaches).push(fault.says);
    }
  return [
    { rule: 'every invoice is what the terms of its subscription come to', breaches },
    { rule: 'nothing that has begun is missing from the invoices', breaches: missing },
  ];
}

/** So many subscriptions are held in memory together, with all of their invoices. */
const BATCH = 500;

function issuedAfter({ db }: Almanac, after: string): Promise<Issued[]> {
  return db.rows<Issued>(
    `select s.id::text, s.terms, (s.tax_id is not null or s.line_sources is not null) and s.terms -> 'tax' is null as by_law, s.invoicing = 'whole' as whole,
       s.carried_walk as carried, s.carried_invoices,
       s.state not in ('lapsed', 'ended') and s.held_on is null as goes_on,
       case when s.state = 'ended' and s.held_on is null then s.closed_on end as ended_on,
       (select coalesce(json_agg(json_build_object('number', number::text, 'kind', kind, 'from', period_from,
                                          'total', total::text, 'law_tax', law_tax)
                        order by period_from, array_position(array['trial', 'stub', 'period', 'change', 'once'], kind), number), '[]')
        from (select number, kind, period_from, total, law_tax from invoices where subscription_id = s.id and not taken_back
              union all
              -- What settles a change below zero is a credit note.
              select number, settles, period_from, -total, law_tax from credit_notes where subscription_id = s.id and kind = 'settlement') i
       ) as invoices
     from subscriptions s where s.id > $after order by s.id limit $count`,
    { after, count: BATCH },
  );
}

/** What is wrong with the invoices of a subscription, in words, and whether it is that one is missing. */
function faultOf(one: Issued, lastTurned: number): { says: string; isMissing: boolean } | null {
  const { id, terms, goes_on, ended_on, by_law, whole, invoices, carried, carried_invoices } = one;
  if (whole && invoices.length > 0) {
    if (isWhole(terms, by_law, invoices)) return null;
    return {
      says: `the invoice of subscription ${id} is not the whole of its terms`,
      isMissing: false,
    };
  }
  // Where tax was left to the law, it is as each invoice recorded it.
  const taxes = new Map(invoices.map(({ from, law_tax }) => [toDay(from), law_tax]));
  const apart = [...new Set(invoices.flatMap(({ law_tax }) => Object.keys(law_tax?.apart ?? {})))];
  const taxOn = by_law ? (day: number, line?: string) => taxFrom(taxes.get(day), line) : undefined;
  const compiled = compileTerms(terms, taxOn, apart);
  let walk = new PaymentWalk(compiled);
  let differs = firstThatDiffers(walk, invoices);
  if (differs !== null && carried !== null && mayHaveSettledOtherwise(terms)) {
    // What was settled before the place was carried over was settled by the rules of then.
    walk = new PaymentWalk(compiled, carried);
    differs = firstThatDiffers(walk, invoices.slice(carried_invoices ?? 0));
  }
  if (differs !== null)
    return {
      says: `invoice ${differs.number} of subscription ${id} is not what its terms come to`,
      isMissing: false,
    };
  const next = goes_on || isEndOf(terms, ended_on) ? walk.next() : null;
  if (!next || next.from > lastTurned) return null;
  return {
    says: `subscription ${id} was not invoiced for ${formatDay(next.from)}`,
    isMissing: true,
  };
}

/**
 * Whether the rules of the release before settle something of terms otherwise than those of now: a change that was
 * settled, or an amount taken off a part of a price.
 */
function mayHaveSettledOtherwise(terms: Terms): boolean {
  if (!('lines' in terms)) return false;
  const changes = terms.changes ?? [];
  const lines = [...terms.lines, ...changes.flatMap((change) => change.lines ?? [])];
  const discounts = [...(terms.discounts ?? []), ...lines.flatMap((line) => line.discounts ?? [])];
  return (
    changes.some(({ settle = 'now', lines: fresh, schedule }) => settle !== 'none' && (fresh ?? schedule)) ||
    discounts.some(({ amount }) => amount !== undefined)
  );
}

/** Walks along invoices: the first that is not what the walk comes to, or null. */
function firstThatDiffers(
  walk: PaymentWalk,
  invoices: Issued['invoices'],
): Issued['invoices'][number] | null {
  for (const invoice of invoices) {
    const payment = walk.next();
    const same =
      payment?.kind === invoice.kind &&
      formatDay(payment.from) === invoice.from &&
      payment.money.total === BigInt(invoice.total);
    if (!same) return invoice;
  }
  return null;
}

/** Whether a subscription that is over has come to the end of its terms: amounts for days after it are still due. */
function isEndOf(terms: Terms, endedOn: string | null): boolean {
  if (endedOn === null) return false;
  const { ends } = outlineOf(compileTerms(terms));
  return ends !== null && formatDay(ends) === endedOn;
}

/** Whether one invoice stands for all payments of its terms, with the tax that it recorded. */
function isWhole(terms: Terms, byLaw: boolean, invoices: Issued['invoices']): boolean {
  const [invoice, ...more] = invoices;
  if (!invoice || more.length > 0) return false;
  const { law_tax } = invoice;
  const taxOn = byLaw ? (_day: number, line?: string) => taxFrom(law_tax, line) : undefined;
  const walk = new PaymentWalk(compileTerms(terms, taxOn, Object.keys(law_tax?.apart ?? {})));
  let total = 0n;
  for (let payment = walk.next(); payment !== null; payment = walk.next()) total += payment.money.total;
  return total === BigInt(invoice.total);
}

/** A tax as an invoice recorded it: of a line that was taxed apart, or else of most lines. */
function taxFrom(recorded: KeptLawTax | null | undefined, line?: string): CompiledTax | null {
  const { rate, mode } = (line === undefined ? recorded : recorded?.apart?.[line]) ?? {};
  if (rate === undefined || mode === undefined) return null;
  return { rate: parseDecimal(rate, TAX_RATE_PLACES), mode };
}
