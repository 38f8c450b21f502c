import type { Transaction } from 'sequelize';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { sayPeriod } from './occasions.ts';
import { queueLetters } from './queueLetter.ts';

/** What a receipt tells of. */
export interface Receipt {
  readonly paymentId: string;
  readonly customerId: string;
  readonly subscriptionId: string;
  readonly customer: string;
  readonly email: string;
  readonly plan: string;
  readonly business: string;
  readonly amount: bigint;
  readonly currency: string;
  /** With the prefix of its series. */
  readonly invoice: string;
  readonly periodFrom: string;
  readonly periodTo: string;
  /** 'Larkfield ending 0019'. */
  readonly card: string;
  readonly paidOn: string;
  readonly statementText: string;
}

/** Queues receipts of payments, in a fixed number of statements. */
export async function queueReceipts(
  almanac: Almanac,
  receipts: readonly Receipt[],
  within: Transaction,
): Promise<void> {
  await queueLetters(
    almanac,
    'receipt',
    receipts.map((receipt) => ({
      event: 'receipt',
      onceKey: `receipt:${receipt.paymentId}`,
      reason: `Payment of invoice ${receipt.invoice}`,
      fields: {
        business: receipt.business,
        customer: receipt.customer,
        plan: receipt.plan,
        amount: sayAmount(receipt.amount, receipt.currency),
        invoice: receipt.invoice,
        card: receipt.card,
        date: sayDate(receipt.paidOn),
        period: sayPeriod(receipt),
        reason: receipt.statementText,
      },
      to: receipt.email,
      customerId: receipt.customerId,
      subscriptionId: receipt.subscriptionId,
      writtenOn: receipt.paidOn,
    })),
    within,
  );
}
