import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { tellStaff } from '../staff/notices.ts';
import type { GatewayAccount } from './GatewayAccount.ts';
import { GatewayAway, KeyRefused } from './port.ts';

/** Asks the gateway how an account stands and keeps the answer. Gives whether it is well. */
export async function testConnection(almanac: Almanac, account: GatewayAccount): Promise<boolean> {
  try {
    const facts = await almanac.gateways.of(account).account();
    await account.update({ facts, name: facts.name, askedAt: new Date() });
    await noteHealth(almanac, account, null);
    return true;
  } catch (error) {
    if (!(error instanceof GatewayAway) && !(error instanceof KeyRefused)) throw error;
    await noteHealth(almanac, account, error.message);
    return false;
  }
}

/** Asks about every connected account. */
export async function testConnections(almanac: Almanac): Promise<void> {
  for (const account of await almanac.gateways.connected()) await testConnection(almanac, account);
}

/** Notes that an account answers (null) or what is wrong with it; staff are told when that turns. */
export async function noteHealth(
  almanac: Almanac,
  account: GatewayAccount,
  wrong: string | null,
): Promise<void> {
  const well = wrong === null;
  if (account.well === well && account.health === (wrong ?? '')) return;
  const turned = account.well !== well;
  const since = new Date();
  await account.update({ well, health: wrong ?? '', ...(turned ? { wellSince: since } : {}) });
  if (!turned) return;
  const today = await businessDateOf(almanac);
  await almanac.db.transaction((within) =>
    tellStaff(
      almanac,
      {
        kind: 'gateway down',
        onceKey: `gateway:${account.id}:${since.toISOString()}`,
        subject: well ? `${account.name} answers again` : `${account.name} does not answer`,
        says: well
          ? `${account.name} answers again. Charges that waited are made now.`
          : `${account.name} does not answer: ${wrong} Charges wait, nothing counts as declined, and customers are not written to.`,
        writtenOn: today,
      },
      within,
    ),
  );
}
