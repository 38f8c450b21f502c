import type { Almanac } from '../server/almanac.ts';
import { makeSignInToken } from '../server/http/session.ts';
import { Person } from '../server/staff/Person.ts';
import { openAlmanac } from './open.ts';

/** `almanac sign-in`: whoever has the server's terminal may sign in as the owner, once for each link. */
export async function signInCommand(): Promise<void> {
  const almanac = await openAlmanac();
  console.log(`Open this within the hour; it works once:\n${await signInLink(almanac)}`);
  await almanac.db.close();
}

/** The link by which the owner is made at the first start, with what to do with it; null once there is an owner. */
export async function linkForFirstOwner(almanac: Almanac): Promise<string | null> {
  if (await Person.findOne({ where: { role: 'owner', leftAt: null } })) return null;
  return `There is no owner yet. Open this within the hour to become it; it works once:\n${await signInLink(almanac)}`;
}

async function signInLink(almanac: Almanac): Promise<string> {
  return `${almanac.config.ALMANAC_URL}/sign-in/${await makeSignInToken(almanac.db)}`;
}
