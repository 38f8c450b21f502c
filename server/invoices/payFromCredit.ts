import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { useCredit } from '../customers/credit.ts';
import { Customer } from '../customers/Customer.ts';
import { noteAltered } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import { closeIfPaid } from '../recovery/closeCase.ts';
import { lockedInvoice, requireNothingUnderWay } from './lockInvoice.ts';

/** Pays for an open invoice from its customer's credit, as far as that goes; gives what was used, in minor units. */
export function payFromCredit(almanac: Almanac, id: string): Promise<{ used: string; owed: string }> {
  return almanac.db.transaction(async (within) => {
    const today = await businessDateOf(almanac, within);
    const { invoice, subscription } = await lockedInvoice(id, within);
    if (!['issued', 'part-paid'].includes(invoice.state) || invoice.owed <= 0n)
      throw new RefusedCommand(409, 'Nothing of this invoice is open.');
    await requireNothingUnderWay(almanac, invoice, within);
    const { customerId, currency, owed } = invoice;
    const used =
      (await useCredit(almanac, [{ id, customerId, currency, owed }], today, within)).get(id) ?? 0n;
    if (used === 0n) throw new RefusedCommand(409, `There is no credit in ${currency} at hand.`);
    await invoice.reload({ transaction: within });
    noteAltered(within, subscription.id);
    await closeIfPaid(almanac, { subscription, invoice }, today, within);
    const { name } = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
    const after = { invoice: `${invoice.prefix}${invoice.number}`, used: sayAmount(used, currency) };
    await recordDone(almanac, { did: 'paid an invoice from credit', subject: name, after }, within);
    return { used: used.toString(), owed: invoice.owed.toString() };
  });
}
