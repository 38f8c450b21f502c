import { hasExpired, type CardExpiry } from '../../core/dates/cardExpiry.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { sayCard } from '../notices/occasions.ts';
import type { MethodView } from './methodMessages.ts';
import { methodsOf, type MethodRow } from './methods.sql.ts';

/** The methods that a customer has, in their turn, and then those that were replaced or withdrawn. */
export async function listMethods(almanac: Almanac, customerId: string): Promise<MethodView[]> {
  const today = await businessDateOf(almanac);
  return (await methodsOf(almanac, customerId)).map((row) => viewOf(row, today));
}

function viewOf(row: MethodRow, today: string): MethodView {
  const { id, role, state, addedOn, account, connected, mandate, own, checkedOn, checkCode, renewedOn } = row;
  return {
    ...{ id, role, state, addedOn, account, connected, mandate, own, renewedOn },
    says: sayCard(row),
    ...{ kind: row.kind, holder: row.holder, expires: sayExpiry(row) },
    hasExpired: hasExpired(row, today),
    check: checkedOn === null || checkCode === null ? null : { on: checkedOn, ...sayCheck(checkCode) },
  };
}

/** '05/2031'; null of what has no expiry. */
export function sayExpiry({ expiresYear, expiresMonth }: CardExpiry): string | null {
  return expiresYear === null ? null : `${String(expiresMonth).padStart(2, '0')}/${expiresYear}`;
}

/** What came of authorising zero, in words. */
export function sayCheck(code: string): { readonly good: boolean; readonly says: string } {
  return code === '00'
    ? { good: true, says: 'the bank would let it be charged' }
    : { good: false, says: meaningOf(code).says };
}
