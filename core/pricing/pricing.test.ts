import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { roundedQuotient } from '../money/rounding.ts';
import { shareAmount } from '../money/sharing.ts';
import type { TermsPrice } from '../terms/schema.ts';
import { takeDiscount } from './discount.ts';
import { fullPrice, listPrice, partOfPrice } from './listPrice.ts';
import { taxGroups, taxOf } from './tax.ts';

const priceOf = (price: TermsPrice, quantity = 1) => fullPrice(listPrice(price, quantity, 2, 1), 1);
const tiers = [
  { to: 10, each: '3.00' },
  { to: 50, each: '2.50', amount: '5.00' },
  { to: null, each: '2.00' },
];

test.each<[string, TermsPrice, number, bigint]>([
  ['flat ignores the quantity', { scheme: 'flat', amount: '7.50' }, 9, 750n],
  ['each: half a penny rounds away from zero, once', { scheme: 'each', amount: '0.015' }, 3, 5n],
  ['each-tier at a joint', { scheme: 'each-tier', tiers }, 10, 3000n],
  [
    'each-tier beyond it: each at its own tier, and the amount of every tier reached',
    { scheme: 'each-tier', tiers },
    51,
    13_700n,
  ],
  ['reached-tier beyond it: all at the tier reached', { scheme: 'reached-tier', tiers }, 51, 10_200n],
  [
    'step',
    {
      scheme: 'step',
      tiers: [
        { to: 3, amount: '21.00' },
        { to: null, amount: '38.00' },
      ],
    },
    4,
    3800n,
  ],
  ['packs are bought whole', { scheme: 'pack', amount: '20.00', size: 6 }, 13, 6000n],
  ['chosen', { scheme: 'chosen', amount: '18.00', min: '5.00' }, 2, 1800n],
])('%s', (_, price, quantity, expected) => expect(priceOf(price, quantity)).toBe(expected));

test('a price by each tier is the sum of what each unit costs at its own tier', () =>
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 200 }), (quantity) => {
      let sum = 0n;
      for (let unit = 1; unit <= quantity; unit += 1) sum += unit <= 10 ? 300n : unit <= 50 ? 250n : 200n;
      if (quantity > 10) sum += 500n;
      expect(priceOf({ scheme: 'each-tier', tiers }, quantity)).toBe(sum);
    }),
  ));

test('a part of a price is rounded once, after the fraction', () => {
  const price = listPrice({ scheme: 'each', amount: '13.3333' }, 3, 2, 1);
  expect(partOfPrice(price, 9, 30)).toBe(1200n);
  expect(partOfPrice(price, 1, 31)).toBe(129n);
  expect(partOfPrice(price, 30, 30)).toBe(fullPrice(price, 1));
});

test('instalments put the odd minor units on the first payments', () => {
  const price = listPrice({ scheme: 'instalments', total: '250.03' }, 1, 2, 7);
  expect([1, 2, 3, 4, 5, 6, 7].map((nth) => fullPrice(price, nth))).toEqual([
    3572n,
    3572n,
    3572n,
    3572n,
    3572n,
    3572n,
    3571n,
  ]);
});

test('rounding is half away from zero on both sides', () =>
  fc.assert(
    fc.property(
      fc.bigInt({ min: -(10n ** 20n), max: 10n ** 20n }),
      fc.bigInt({ min: 1n, max: 10n ** 9n }),
      (over, under) => {
        const rounded = roundedQuotient(over, under);
        const off = 2n * (over - rounded * under);
        expect(off <= under && off >= -under).toBe(true);
        expect(roundedQuotient(-over, under)).toBe(-rounded);
        if (off === under || off === -under)
          expect(rounded < 0n ? -rounded : rounded).toBeGreaterThan((over < 0n ? -over : over) / under);
      },
    ),
  ));

const weights = fc.array(fc.bigInt({ min: 0n, max: 10n ** 12n }), { minLength: 1, maxLength: 8 });

describe('sharing an amount', () => {
  test('gives all of it away, to nobody more than a unit off the exact share, and to none more than its weight', () =>
    fc.assert(
      fc.property(weights, fc.nat(1000), (parts, promille) => {
        const total = parts.reduce((sum, part) => sum + part, 0n);
        const amount = (total * BigInt(promille)) / 1000n;
        const shares = shareAmount(amount, parts);
        expect(shares.reduce((sum, share) => sum + share, 0n)).toBe(total === 0n ? 0n : amount);
        shares.forEach((share, i) => {
          const part = parts[i] ?? 0n;
          expect(share <= part && share >= 0n).toBe(true);
          if (total > 0n) expect((share * total - amount * part) ** 2n < total ** 2n).toBe(true);
        });
      }),
    ));

  test('gives the odd unit to the largest remainder, and of equal ones to the earlier', () => {
    expect(shareAmount(100n, [1000n, 1000n, 1000n])).toEqual([34n, 33n, 33n]);
    expect(shareAmount(1n, [1n, 2n])).toEqual([0n, 1n]);
  });
});

test('a percentage is rounded line by line, an amount never exceeds what is left', () => {
  const discount = { percent: null, amount: null, payments: Infinity, to: 'recurring' } as const;
  expect(takeDiscount({ ...discount, percent: 33_333_300_000_000n }, [100n, 5n])).toEqual([67n, 3n]);
  expect(takeDiscount({ ...discount, amount: 800n }, [300n, 200n])).toEqual([0n, 0n]);
});

test('tax is taken once a group; rates are one group by their value', () => {
  const twenty = { rate: 200_000n, mode: 'exclusive' } as const;
  expect(taxOf(1000n, { ...twenty, mode: 'inclusive' })).toEqual({ net: 833n, tax: 167n, total: 1000n });
  expect(taxOf(-1000n, twenty)).toEqual({ net: -1000n, tax: -200n, total: -1200n });
  const line = (amount: bigint, tax: typeof twenty) => ({ amount, tax });
  const groups = taxGroups([
    line(2n, twenty),
    line(2n, { ...twenty }),
    { amount: 5n, tax: null },
    line(3n, twenty),
  ]);
  expect(groups.map(({ taxed }) => taxed.tax)).toEqual([1n, 0n]);
});
