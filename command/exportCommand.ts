import { exportOffer } from '../server/imports/offerFile.ts';
import { openAlmanac } from './open.ts';

/** `almanac export`: plans, rates and discounts in the open format; what it writes can be imported again. */
export async function exportCommand(): Promise<void> {
  const almanac = await openAlmanac();
  try {
    console.log(JSON.stringify(await exportOffer(almanac), null, 2));
  } finally {
    await almanac.db.close();
  }
}
