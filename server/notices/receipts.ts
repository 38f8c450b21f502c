import { money, onDate, type SaidCard } from '../../core/letters/said.ts';
import { ONLINE_TRANSFER } from '../../core/letters/sayIn.ts';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { MeansByHand } from '../payments/meansKinds.ts';
import { saidPeriod } from './occasions.ts';
import { queueLetters } from './queueLetter.ts';
import { saidMeans } from './saidMeans.ts';

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
  /** What was charged; null: it was paid by hand, by some means. */
  readonly card: SaidCard | null;
  readonly means?: MeansByHand;
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
      says: {
        business: receipt.business,
        customer: receipt.customer,
        plan: receipt.plan,
        amount: money(receipt.amount, receipt.currency),
        invoice: receipt.invoice,
        date: onDate(receipt.paidOn),
        period: saidPeriod(receipt),
        ...(receipt.card
          ? { how: howCharged(receipt.card), card: receipt.card, reason: receipt.statementText }
          : { how: 'by hand', reason: saidMeans(receipt.means ?? 'other') }),
      },
      to: receipt.email,
      customerId: receipt.customerId,
      subscriptionId: receipt.subscriptionId,
      writtenOn: receipt.paidOn,
    })),
    within,
  );
}

const howCharged = ({ network }: SaidCard) => (network === ONLINE_TRANSFER ? 'transfer' : 'automatic');
