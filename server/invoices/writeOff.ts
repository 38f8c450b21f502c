import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { invoiceWrittenOff } from '../books/entries.ts';
import { post } from '../books/post.ts';

/** Writes off what the invoices of a case still lack, with their entries in the books. */
export async function writeOff(
  almanac: Almanac,
  caseId: string,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const written = await almanac.db.rows<{ id: string; owed: string; currency: string }>(
    `update invoices set state = 'written off' where case_id = $caseId and state in ('issued', 'part-paid')
     returning id::text, owed::text, currency`,
    { caseId },
    within,
  );
  await post(
    almanac,
    written.map(({ id, owed, currency }) =>
      invoiceWrittenOff({ invoiceId: id, amount: BigInt(owed), currency, on: businessDate }),
    ),
    within,
  );
}
