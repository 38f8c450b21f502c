import type { CompiledTax } from '../../core/agreed/terms.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { Payment, PaymentLine, PaymentMoney } from '../../core/listing/payment.ts';

/** All payments of a fixed term as one: its lines are the sums of theirs. */
export function wholeOf(first: Payment, payments: readonly Payment[]): Payment {
  const sum = (of: (payment: Payment) => bigint) => payments.reduce((total, one) => total + of(one), 0n);
  const lines = new Map<string, PaymentLine>();
  for (const line of payments.flatMap(({ money }) => money.lines)) {
    const key = `${line.role} ${line.name} ${line.quantity}`;
    const { amount = 0n, discount = 0n } = lines.get(key) ?? {};
    lines.set(key, { ...line, amount: amount + line.amount, discount: discount + line.discount });
  }
  const taxes = new Map<CompiledTax | null, PaymentMoney['taxes'][number]>();
  for (const { tax, taxed } of payments.flatMap(({ money }) => money.taxes)) {
    const { net = 0n, tax: sumOfTax = 0n, total = 0n } = taxes.get(tax)?.taxed ?? {};
    const summed = { net: net + taxed.net, tax: sumOfTax + taxed.tax, total: total + taxed.total };
    taxes.set(tax, { tax, taxed: summed });
  }
  return {
    ...first,
    to: payments.at(-1)?.to ?? first.to,
    credit: sum(({ credit }) => credit),
    due: sum(({ due }) => due),
    money: {
      lines: [...lines.values()],
      taxes: [...taxes.values()],
      discount: sum(({ money }) => money.discount),
      net: sum(({ money }) => money.net),
      tax: sum(({ money }) => money.tax),
      total: sum(({ money }) => money.total),
    },
  };
}

/** Terms whose payments are all taxed as on the day of the first: one invoice stands for all of them. */
export function taxedAtOnce(terms: CompiledTerms): CompiledTerms {
  if (!terms.taxOn) return terms;
  const begins = new PaymentWalk(terms).next()?.from;
  const { taxOn } = terms;
  return { ...terms, taxOn: (_day, line) => (begins === undefined ? null : taxOn(begins, line)) };
}
