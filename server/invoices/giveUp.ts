import type { Transaction } from 'sequelize';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { invoiceWrittenOff } from '../books/entries.ts';
import { post } from '../books/post.ts';
import { sayEntries, type ShownEntryLine } from '../books/sayEntry.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { noteAltered } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import { closeIfPaid } from '../recovery/closeCase.ts';
import { lockedInvoice, requireNothingUnderWay } from './lockInvoice.ts';

/** What giving up an invoice would do, or did. */
export interface WriteOffEffect {
  readonly invoice: string;
  readonly currency: string;
  /** What is given up, in minor units. */
  readonly owed: string;
  readonly books: readonly ShownEntryLine[];
}

/** What giving up what an invoice still lacks would do. Changes nothing. */
export function effectOfWritingOff(almanac: Almanac, id: string): Promise<WriteOffEffect> {
  return almanac.db.transaction(async (within) => (await prepare(almanac, id, within)).effect);
}

/**
 * Gives up what an invoice still lacks: nothing of it is charged or reminded of any more, and what comes in for it after all is
 * recovered.
 */
export function writeOffInvoice(almanac: Almanac, id: string, reason: string): Promise<WriteOffEffect> {
  return almanac.db.transaction(async (within) => {
    const { invoice, subscription, entry, effect, today } = await prepare(almanac, id, within);
    await invoice.update({ state: 'written off' }, { transaction: within });
    await post(almanac, [entry], within);
    noteAltered(within, subscription.id);
    await closeIfPaid(almanac, { subscription, invoice }, today, within, 'written off');
    const { name } = await Customer.findByPk(invoice.customerId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    const after = {
      ...{ invoice: effect.invoice, owed: sayAmount(BigInt(effect.owed), effect.currency), reason },
    };
    await recordDone(almanac, { did: 'wrote an invoice off', subject: name, after }, within);
    return effect;
  });
}

async function prepare(almanac: Almanac, id: string, within: Transaction) {
  const today = await businessDateOf(almanac, within);
  const { invoice, subscription } = await lockedInvoice(id, within);
  if (!['issued', 'part-paid'].includes(invoice.state) || invoice.owed <= 0n)
    throw new RefusedCommand(409, 'Nothing of this invoice is open.');
  await requireNothingUnderWay(almanac, invoice, within);
  const { owed, currency } = invoice;
  const entry = invoiceWrittenOff({ invoiceId: id, amount: owed, currency, on: today });
  const effect: WriteOffEffect = {
    ...{ invoice: `${invoice.prefix}${invoice.number}`, currency, owed: owed.toString() },
    books: await sayEntries(almanac, [entry]),
  };
  return { invoice, subscription, entry, effect, today };
}
