import { z } from 'zod';
import { formatDay, type Day } from '../dates/day.ts';
import { formatDecimal } from '../money/decimal.ts';
import type { Payment, PaymentMoney } from './payment.ts';

const date = z.string().meta({ format: 'date' });
const amount = z.string().meta({ pattern: '^-?\\d+(\\.\\d+)?$' });

/** The output of rules 8 as a Zod schema; the JSON Schema in docs/ is generated from it. */
export const outputSchema = z.strictObject({
  payments: z.array(
    z.strictObject({
      kind: z.enum(['trial', 'stub', 'period', 'change', 'once']),
      from: date,
      to: date,
      dueOn: date,
      lines: z.array(amount),
      discount: amount,
      net: amount,
      tax: amount,
      total: amount,
      credit: amount,
      due: amount,
    }),
  ),
  ends: date.nullable(),
  sum: amount,
  creditLeft: amount,
});

export type Output = z.infer<typeof outputSchema>;
export type OutputPayment = Output['payments'][number];

type OutputMoney = Pick<OutputPayment, 'lines' | 'discount' | 'net' | 'tax' | 'total'>;

/**
 * Writes payments in the form of rules 8, with exactly the currency's decimals. Amounts that payments share
 * are written once, and so is a day that one payment ends and the next begins on.
 */
export class OutputWriter {
  private lastMoney: PaymentMoney | null = null;
  private lastWritten: OutputMoney | null = null;
  private lastTo: { day: Day; text: string } | null = null;
  private readonly zero: string;

  constructor(private readonly digits: number) {
    this.zero = formatDecimal(0n, digits);
  }

  write(payment: Payment): OutputPayment {
    const { money, credit, due } = payment;
    const written = this.moneyOf(money);
    const from = this.lastTo?.day === payment.from ? this.lastTo.text : formatDay(payment.from);
    const to = payment.to === payment.from ? from : formatDay(payment.to);
    this.lastTo = { day: payment.to, text: to };
    return {
      kind: payment.kind,
      from,
      to,
      dueOn: payment.dueOn === payment.from ? from : formatDay(payment.dueOn),
      lines: written.lines,
      discount: written.discount,
      net: written.net,
      tax: written.tax,
      total: written.total,
      credit: credit === 0n ? this.zero : formatDecimal(credit, this.digits),
      due: due === money.total ? written.total : formatDecimal(due, this.digits),
    };
  }

  private moneyOf(money: PaymentMoney): OutputMoney {
    if (this.lastMoney === money && this.lastWritten !== null) return this.lastWritten;
    const amount = (value: bigint) => formatDecimal(value, this.digits);
    this.lastMoney = money;
    this.lastWritten = {
      lines: money.lines.map((line) => amount(line.amount)),
      discount: amount(money.discount),
      net: amount(money.net),
      tax: amount(money.tax),
      total: amount(money.total),
    };
    return this.lastWritten;
  }
}
