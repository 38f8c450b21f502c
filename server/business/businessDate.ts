import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { clockDate } from '../run/clockDate.ts';
import { theBusiness } from './theBusiness.ts';

/** The business day: the practice clock's, or in production today in the business's time zone. */
export async function businessDateOf(_almanac: Almanac, within?: Transaction): Promise<string> {
  const business = await theBusiness(within);
  return business.practice ? business.businessDate : clockDate(business.timeZone, new Date());
}
