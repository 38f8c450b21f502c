import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { linkForLetter, linkToken } from '../customers/link.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Invoice } from '../invoices/Invoice.ts';

/** A new link to the page on which an invoice's customer pays it, to be handed on; and until when it is good. */
export function makePayLink(almanac: Almanac, id: string): Promise<{ url: string; expiresOn: string }> {
  return almanac.db.transaction(async (within) => {
    const invoice = await Invoice.findByPk(id, { transaction: within });
    if (!invoice) throw new RefusedCommand(404, 'There is no such invoice.');
    const today = await businessDateOf(almanac, within);
    const link = await linkForLetter(
      { id: invoice.subscriptionId, customerId: invoice.customerId },
      today,
      within,
    );
    const after = { invoice: `${invoice.prefix}${invoice.number}`, until: link.expiresOn };
    await recordDone(almanac, { did: 'made a link to pay an invoice', after }, within);
    const url = `${almanac.config.ALMANAC_URL}/own/${linkToken(almanac, link.id, 'own')}`;
    return { url, expiresOn: link.expiresOn };
  });
}
