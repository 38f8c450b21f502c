import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { accountOf } from '../customers/account.ts';
import type { AccountQuery } from '../customers/accountMessages.ts';
import { Customer } from '../customers/Customer.ts';
import { settingsOf } from '../settings/settings.ts';
import type { DocumentFile } from './documentOf.ts';
import { printStatement } from './print.ts';
import { printedLook } from './readDocuments.ts';

/** A customer's statement of account as PDF. */
export async function statementOf(almanac: Almanac, id: string, asked: AccountQuery): Promise<DocumentFile> {
  const account = await accountOf(almanac, id, asked);
  const { name, organisation, address, postcode } = await Customer.findByPk(id, { rejectOnEmpty: true });
  const business = await settingsOf(almanac, 'business');
  const bytes = await printStatement(
    {
      account,
      madeOn: await businessDateOf(almanac),
      seller: { legalName: business.legalName || business.name, address: business.address },
      buyer: {
        name,
        organisation: organisation ?? '',
        address: [address, postcode].filter(Boolean).join('\n'),
      },
    },
    await printedLook(almanac),
  );
  return {
    name: `Statement ${name.replace(/[^\p{L}\p{N} ._-]/gu, '-')}.pdf`,
    mediaType: 'application/pdf',
    bytes,
  };
}
