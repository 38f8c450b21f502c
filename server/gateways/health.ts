import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { tellStaff } from '../staff/notices.ts';
import type { GatewayAccount } from './GatewayAccount.ts';
import type { Transaction } from 'sequelize';
import { raiseNeed } from '../run/needs.ts';
import { AccountTrouble, NotAllowed } from './port.ts';

/** Asks the gateway how an account stands and keeps the answer. Gives its trouble, or null where it is well. */
export async function testConnection(
  almanac: Almanac,
  account: GatewayAccount,
): Promise<AccountTrouble | null> {
  const asked = new Date();
  try {
    const facts = await almanac.gateways.of(account).account();
    await account.update({ facts, name: facts.name, askedAt: asked, factsAt: asked });
    // An account that may not charge answers well, and its charges go on waiting.
    const trouble = account.well || facts.mayCharge ? null : new NotAllowed();
    await noteHealth(almanac, account, trouble?.message ?? null);
    return trouble;
  } catch (error) {
    if (!(error instanceof AccountTrouble)) throw error;
    await noteHealth(almanac, account, error.message);
    return error;
  }
}

/** Asks about every connected account. */
export async function testConnections(almanac: Almanac): Promise<void> {
  for (const account of await almanac.gateways.connected()) await testConnection(almanac, account);
}

/**
 * Notes that an account answers (null) or what is wrong with it. When that turns, whoever notes it first tells staff,
 * once, and the day sheet says that charges wait.
 */
export async function noteHealth(
  almanac: Almanac,
  account: GatewayAccount,
  wrong: string | null,
): Promise<void> {
  const well = wrong === null;
  if (account.well === well && account.health === (wrong ?? '')) return;
  const today = await businessDateOf(almanac);
  await almanac.db.transaction(async (within) => {
    await account.reload({ transaction: within, lock: within.LOCK.UPDATE });
    const turned = account.well !== well;
    const since = turned ? new Date() : account.wellSince;
    await account.update({ well, health: wrong ?? '', wellSince: since }, { transaction: within });
    if (!turned) return;
    const onceKey = `gateway:${account.id}:${since.toISOString()}`;
    if (well) await settleTroubles(almanac, account, today, within);
    else
      await raiseNeed(almanac, within, {
        onceKey,
        arose: today,
        kind: 'gateway in trouble',
        says: `Charges at ${account.name} wait: ${wrong} They are tried again by themselves. Nothing counts as declined, and customers are not written to.`,
        subscriptionId: null,
        customerId: null,
      });
    await tellStaff(
      almanac,
      {
        kind: 'gateway down',
        onceKey,
        subject: well ? `${account.name} answers again` : `${account.name} does not answer`,
        says: well
          ? `${account.name} answers again. Charges that waited are made now.`
          : `${account.name} does not answer: ${wrong} Charges wait, nothing counts as declined, and customers are not written to.`,
        writtenOn: today,
      },
      within,
    );
  });
}

/** Takes off the day sheet what it said of an account that could not be asked: it can be again. */
export async function settleTroubles(
  almanac: Almanac,
  { id }: Pick<GatewayAccount, 'id'>,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  await almanac.db.rows(
    `update needs set settled_on = $businessDate
     where settled_on is null and (once_key like 'gateway:' || $id || ':%' or once_key like 'disconnected:' || $id || ':%')`,
    { id, businessDate },
    within,
  );
}
