import { takeDiscount } from '../pricing/discount.ts';
import type { CompiledDiscount, CompiledTax } from '../terms/compile.ts';
import type { PaymentLine } from './payment.ts';

/** A line before discounts; `own` are the discounts of this line alone. */
export interface OpenLine {
  readonly role: PaymentLine['role'];
  readonly name: string;
  readonly quantity: number;
  readonly amount: bigint;
  readonly own: readonly CompiledDiscount[];
  readonly tax: CompiledTax | null;
}

/**
 * The lines of one payment after discounts (rules 5): each line's own first, then those of the document in
 * listed order, each to what the ones before it left. Set-up, trial and carried lines are never discounted.
 *
 * @param paymentsSinceLines stub or period payments already listed since the lines came
 * @param uses how often each discount of the document has been counted; counted on here, in place
 */
export function discountLines(
  lines: readonly OpenLine[],
  discounts: readonly CompiledDiscount[],
  paymentsSinceLines: number,
  uses: number[],
): PaymentLine[] {
  if (discounts.length === 0 && lines.every((line) => line.own.length === 0)) return lines.map(undiscounted);
  const left = lines.map((line) =>
    line.own
      .filter((discount) => paymentsSinceLines < discount.payments)
      .reduce((amount, discount) => takeDiscount(discount, [amount])[0] ?? amount, line.amount),
  );
  discounts.forEach((discount, i) => {
    const used = uses[i] ?? 0;
    if (used >= discount.payments) return;
    const places = lines.flatMap((line, at) => (appliesTo(discount, line) ? [at] : []));
    if (places.length === 0) return;
    uses[i] = used + 1;
    const after = takeDiscount(
      discount,
      places.map((at) => left[at] ?? 0n),
    );
    places.forEach((at, j) => (left[at] = after[j] ?? 0n));
  });
  return lines.map(({ role, name, quantity, amount, tax }, at) => {
    const rest = left[at] ?? amount;
    return { role, name, quantity, amount: rest, discount: amount - rest, tax };
  });
}

function undiscounted({ role, name, quantity, amount, tax }: OpenLine): PaymentLine {
  return { role, name, quantity, amount, discount: 0n, tax };
}

function appliesTo(discount: CompiledDiscount, line: OpenLine): boolean {
  if (line.role !== 'recurring' && line.role !== 'once') return false;
  return discount.to === 'all' || discount.to === line.role;
}
