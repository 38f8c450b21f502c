import { makeSignInToken } from '../server/http/session.ts';
import { openAlmanac } from './open.ts';

/** `almanac sign-in`: whoever has the server's terminal may sign in as the owner, once for each link. */
export async function signInCommand(): Promise<void> {
  const almanac = await openAlmanac();
  const token = await makeSignInToken(almanac.db);
  console.log(`Open this within the hour; it works once:\n${almanac.config.ALMANAC_URL}/sign-in/${token}`);
  await almanac.db.close();
}
