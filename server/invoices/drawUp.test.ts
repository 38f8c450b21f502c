import fc from 'fast-check';
import { expect, test } from 'vitest';
import { TAX_RATE_PLACES, type CompiledTax } from '../../core/agreed/terms.ts';
import { paymentsOf } from '../../core/listing/listPayments.ts';
import { parseDecimal } from '../../core/money/decimal.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Terms, TermsLine, TermsTax } from '../../core/terms/schema.ts';
import { anyTerms } from '../../testing/anyTerms.ts';
import { drawUp } from './drawUp.ts';

const MOST: TermsTax = { rate: '20', mode: 'exclusive' };
const OTHERS: readonly TermsTax[] = [
  MOST,
  { rate: '5', mode: 'inclusive' },
  { rate: '8.875', mode: 'exclusive' },
];
/** The line that is of another plan; its account, beside that of all others. */
const APART = 'Line 2';
const ACCOUNT = '4020';

/** The same terms with named lines and without taxes, or with that of each line written beside it. */
function named(terms: Terms, taxed: TermsTax | null): Terms | null {
  if (!('lines' in terms)) return null;
  const bare = (lines: readonly TermsLine[]) =>
    lines.map(({ tax: _, ...line }, i) => {
      const name = `Line ${i + 1}`;
      return { ...line, name, ...(taxed && name === APART ? { tax: taxed } : {}) };
    });
  const { tax: _, once = [], changes = [], ...rest } = terms;
  return {
    ...rest,
    lines: bare(terms.lines),
    once: once.map(({ tax: __, ...entry }) => entry),
    changes: changes.map((change) => ({ ...change, ...(change.lines ? { lines: bare(change.lines) } : {}) })),
    ...(taxed ? { tax: MOST } : {}),
  } as Terms;
}

const compiled = ({ rate, mode }: TermsTax): CompiledTax => ({
  rate: parseDecimal(rate, TAX_RATE_PLACES),
  mode,
});

test('for any terms, a line taxed apart by the law comes out as one that names its tax; what is sold is shared over the accounts without loss', () => {
  let seen = 0;
  const property = (terms: Terms, other: TermsTax) => {
    const [bare, written] = [named(terms, null), named(terms, other)];
    if (!bare || !written) return;
    const [most, apart] = [compiled(MOST), compiled(other)];
    const byLaw = [
      ...paymentsOf(
        compileTerms(bare, (_day, line) => (line === APART ? apart : most), [APART]),
        { count: 12 },
      ),
    ];
    const asWritten = [...paymentsOf(compileTerms(written), { count: 12 })];
    expect(byLaw.map(({ money, due }) => [money.net, money.tax, money.total, due])).toEqual(
      asWritten.map(({ money, due }) => [money.net, money.tax, money.total, due]),
    );
    for (const payment of byLaw) {
      const invoice = drawUp(
        {
          ...{
            subscriptionId: '1',
            customerId: '1',
            currency: 'GBP',
            payment,
            dues: [],
            parties: {},
            fields: [],
          },
          ...{ account: '4010', accounts: new Map([[APART, ACCOUNT]]), at: null },
          walkBefore: null,
          lawTaxes: { most, apart: new Map([[APART, apart]]) },
        },
        '2027-01-04',
      );
      expect(invoice.sales.reduce((sum, { net }) => sum + net, 0n)).toBe(payment.money.net);
      expect(new Set(invoice.sales.map(({ code }) => code)).size).toBe(invoice.sales.length);
      const lines = payment.money.lines.filter(
        ({ name, role }) => name === APART && role !== 'once' && role !== 'trial' && role !== 'setup',
      );
      if (lines.length === 0) continue;
      seen += 1;
      const gross = lines.reduce((sum, { amount }) => sum + amount, 0n);
      const exact =
        other.mode === 'exclusive' ? Number(gross) : Number(gross) / (1 + Number(other.rate) / 100);
      const booked = invoice.sales.find(({ code }) => code === ACCOUNT)?.net ?? 0n;
      expect(Math.abs(Number(booked) - exact)).toBeLessThanOrEqual(1);
      const said = JSON.parse(invoice.lines) as { name: string; account?: string }[];
      expect(said.filter(({ account }) => account === ACCOUNT)).toHaveLength(lines.length);
    }
  };
  fc.assert(fc.property(anyTerms, fc.constantFrom(...OTHERS), property), { numRuns: 400, seed: 20_270_104 });
  expect(seen).toBeGreaterThan(500);
});
