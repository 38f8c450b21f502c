import { taxGroups } from '../pricing/tax.ts';
import type { PaymentLine, PaymentMoney } from './payment.ts';

/** Sums the discounted lines of a payment and adds its taxes (rules 6). */
export function moneyOf(lines: readonly PaymentLine[]): PaymentMoney {
  const taxes = taxGroups(lines);
  const money = { lines, discount: 0n, net: 0n, tax: 0n, total: 0n, taxes };
  for (const { discount } of lines) if (discount !== 0n) money.discount += discount;
  for (const { taxed } of taxes) {
    money.net += taxed.net;
    money.tax += taxed.tax;
    money.total += taxed.total;
  }
  return money;
}
