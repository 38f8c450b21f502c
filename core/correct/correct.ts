import { roundedQuotient } from '../money/rounding.ts';
import { shareAmount } from '../money/sharing.ts';

/** A tax of an invoice: what its lines come to without it, and it, in minor units. */
export interface CorrectableTax {
  readonly mode: 'exclusive' | 'inclusive';
  readonly net: bigint;
  readonly tax: bigint;
}

/** An invoice as far as a credit note may take it back: its lines after discounts, and its taxes, each rounded once (rules 6). */
export interface Correctable {
  /** `tax` is the place of the line's tax among `taxes`; null: it bears none. Minor units, as agreed: with or without tax. */
  readonly lines: readonly { readonly amount: bigint; readonly tax: number | null }[];
  readonly taxes: readonly CorrectableTax[];
}

/** What one credit note takes back: of each line, and of each tax, in minor units. */
export interface Correction {
  readonly lines: readonly bigint[];
  readonly taxes: readonly { readonly net: bigint; readonly tax: bigint }[];
  readonly net: bigint;
  readonly tax: bigint;
  readonly total: bigint;
}

/** What is left of an invoice after the credit notes there were. */
export interface Left extends Correction {
  readonly of: Correctable;
}

/** What can still be taken back of an invoice. */
export function leftAfter(of: Correctable, earlier: readonly Correction[]): Left {
  const lines = of.lines.map(({ amount }, i) =>
    earlier.reduce((left, one) => left - (one.lines[i] ?? 0n), amount),
  );
  const taxes = of.taxes.map(({ net, tax }, i) =>
    earlier.reduce(
      (left, one) => ({
        net: left.net - (one.taxes[i]?.net ?? 0n),
        tax: left.tax - (one.taxes[i]?.tax ?? 0n),
      }),
      { net, tax },
    ),
  );
  return { of, ...summed(of, lines, taxes) };
}

/** All that is left. */
export function correctInFull({ lines, taxes, of }: Left): Correction {
  return summed(of, lines, taxes);
}

/**
 * Some amounts of lines, as the lines were agreed: with or without tax. The tax that goes back is each tax's share, rounded,
 * and of the last of its lines whatever is left of it, so that credit notes never give back a unit more or less than was asked.
 * @param amounts for each line, between nothing and what is left of it
 * @returns null where an amount is beyond what is left
 * @example 120.00 of which 20.00 is tax, one line of 60.00 taken back: 50.00 and 10.00 of tax
 */
export function correctLines(left: Left, amounts: readonly bigint[]): Correction | null {
  const isWithin = left.lines.every((line, i) => {
    const amount = amounts[i] ?? 0n;
    return line >= 0n ? amount >= 0n && amount <= line : amount <= 0n && amount >= line;
  });
  if (!isWithin) return null;
  const { of } = left;
  const taxes = of.taxes.map(({ mode, ...whole }, i) => {
    const had = left.taxes[i] ?? { net: 0n, tax: 0n };
    const base = baseOf(of, left.lines, i);
    const taken = baseOf(of, amounts, i);
    if (taken === base) return had;
    const asked = baseOf(of, ofAll(of), i);
    const [dividend, divisor] = asked < 0n ? [-whole.tax * taken, -asked] : [whole.tax * taken, asked];
    const tax = divisor === 0n ? 0n : capped(roundedQuotient(dividend, divisor), had.tax);
    return { net: mode === 'exclusive' ? taken : taken - tax, tax };
  });
  return summed(
    of,
    left.lines.map((_, i) => amounts[i] ?? 0n),
    taxes,
  );
}

/**
 * A sum with its tax, shared over all taxes and their lines in proportion to what is left of each.
 * @param total above nothing, and at most what is left
 * @returns null where it is beyond that
 */
export function correctAmount(left: Left, total: bigint): Correction | null {
  if (total <= 0n || total > left.total) return null;
  if (total === left.total) return correctInFull(left);
  const { of } = left;
  const parts = partsOf(left);
  const shares = shareAmount(
    total,
    parts.map(({ gross }) => (gross > 0n ? gross : 0n)),
  );
  const lines = left.lines.map(() => 0n);
  const taxes = of.taxes.map(() => ({ net: 0n, tax: 0n }));
  parts.forEach((part, i) => {
    const share = shares[i] ?? 0n;
    if (share === 0n) return;
    const tax = part.tax === 0n ? 0n : capped(roundedQuotient(part.tax * share, part.gross), part.tax);
    // The rest of it is the price: never more of that than is left.
    const net = share - tax > part.net ? part.net : share - tax;
    const base = part.mode === 'exclusive' ? net : share;
    if (part.place !== null) taxes[part.place] = { net, tax: share - net };
    const weights = part.lines.map((line) => ((left.lines[line] ?? 0n) > 0n ? (left.lines[line] ?? 0n) : 0n));
    shareAmount(base, weights).forEach((amount, n) => {
      lines[part.lines[n] ?? 0] = amount;
    });
  });
  return summed(of, lines, taxes);
}

/** One tax, or that of lines which bear none, with what is left of it. */
interface Part {
  readonly place: number | null;
  readonly mode: CorrectableTax['mode'];
  readonly net: bigint;
  readonly tax: bigint;
  readonly gross: bigint;
  readonly lines: readonly number[];
}

function partsOf(left: Left): Part[] {
  const { of } = left;
  const linesOf = (tax: number | null) => of.lines.flatMap((line, i) => (line.tax === tax ? [i] : []));
  const free = linesOf(null);
  const untaxed = free.reduce((sum, line) => sum + (left.lines[line] ?? 0n), 0n);
  return [
    ...of.taxes.map(({ mode }, place): Part => {
      const { net = 0n, tax = 0n } = left.taxes[place] ?? {};
      return { place, mode, net, tax, gross: net + tax, lines: linesOf(place) };
    }),
    { place: null, mode: 'inclusive', net: untaxed, tax: 0n, gross: untaxed, lines: free },
  ];
}

const ofAll = (of: Correctable) => of.lines.map(({ amount }) => amount);

/** What some amounts of lines that bear a tax come to. */
function baseOf(of: Correctable, amounts: readonly bigint[], place: number): bigint {
  return of.lines.reduce((sum, { tax }, i) => (tax === place ? sum + (amounts[i] ?? 0n) : sum), 0n);
}

/** A share of a tax, never beyond what is left of it. */
function capped(tax: bigint, left: bigint): bigint {
  if (left >= 0n) return tax > left ? left : tax < 0n ? 0n : tax;
  return tax < left ? left : tax > 0n ? 0n : tax;
}

function summed(
  of: Correctable,
  lines: readonly bigint[],
  taxes: readonly { readonly net: bigint; readonly tax: bigint }[],
): Correction {
  const free = of.lines.reduce((sum, { tax }, i) => (tax === null ? sum + (lines[i] ?? 0n) : sum), 0n);
  const net = taxes.reduce((sum, one) => sum + one.net, free);
  const tax = taxes.reduce((sum, one) => sum + one.tax, 0n);
  return { lines, taxes, net, tax, total: net + tax };
}
