import { taxGroups } from '../pricing/tax.ts';
import type { PaymentLine, PaymentMoney } from './payment.ts';

/** Sums the discounted lines of a payment and adds its taxes (rules 6). */
export function moneyOf(lines: readonly PaymentLine[]): PaymentMoney {
  const taxes = taxGroups(lines);
  return {
    lines,
    discount: lines.reduce((sum, line) => sum + line.discount, 0n),
    net: taxes.reduce((sum, { taxed }) => sum + taxed.net, 0n),
    tax: taxes.reduce((sum, { taxed }) => sum + taxed.tax, 0n),
    total: taxes.reduce((sum, { taxed }) => sum + taxed.total, 0n),
    taxes,
  };
}
