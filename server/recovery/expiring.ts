import { onDate, sentence } from '../../core/letters/said.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { linkForLetter } from '../customers/link.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { takeRenewedCard } from '../customers/renewedCard.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { AccountTrouble } from '../gateways/port.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import { saidCard, writeAbout } from '../notices/occasions.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import type { ExpiringCard } from './expiringMessages.ts';
import { EXPIRING_CARDS, FIRST_CHARGED } from './expiring.sql.ts';

/** One page of the cards that expire soon, or have, the first of them first. */
export async function listExpiring(almanac: Almanac, query: ListQuery): Promise<Page<ExpiringCard>> {
  const { search, state, from, until } = query;
  return readPage<ExpiringCard>(
    almanac.db,
    {
      select: EXPIRING_CARDS,
      bound: {
        ...{ state, from, until },
        pattern: likePattern(search),
        today: await businessDateOf(almanac),
      },
      sorts: { expires: '"expiresOn"', customer: 'customer', next: '"nextOn"', told: '"toldOn"' },
    },
    query,
  );
}

/**
 * Asks the gateways whether banks have issued some cards anew, and takes those: nobody need be written to about them. Gives the
 * others, those of a gateway that cannot be asked among them.
 */
export async function notRenewed(
  almanac: Almanac,
  ids: readonly string[],
  businessDate: string,
): Promise<readonly string[]> {
  const methods = await PaymentMethod.findAll({ where: { id: [...ids] } });
  const accounts = await GatewayAccount.findAll({
    where: { id: [...new Set(methods.map(({ gatewayAccountId }) => gatewayAccountId))] },
  });
  const renewed = new Set<string>();
  for (const account of accounts) {
    if (almanac.gateways.troubleNow(account)) continue;
    const kept = methods.filter(({ gatewayAccountId }) => gatewayAccountId === account.id);
    try {
      const tokens = kept.map(({ gatewayToken }) => gatewayToken);
      for (const card of await almanac.gateways.of(account).cards(tokens)) {
        const method = kept.find(({ gatewayToken }) => gatewayToken === card.token);
        if (method && (await takeRenewedCard(almanac, account, card, businessDate))) renewed.add(method.id);
      }
    } catch (error) {
      if (!(error instanceof AccountTrouble)) throw error;
      almanac.gateways.noteTrouble(account, error);
    }
  }
  return ids.filter((id) => !renewed.has(id));
}

/** Writes to the customer of a card whose last month has begun, once for each expiry. */
export async function tellOfExpiringCard(almanac: Almanac, id: string, businessDate: string): Promise<void> {
  const found = await PaymentMethod.findByPk(id, { rejectOnEmpty: true });
  await almanac.db.transaction(async (within) => {
    await lockedCustomer(found.customerId, within);
    const method = await PaymentMethod.findByPk(id, { transaction: within, rejectOnEmpty: true });
    const { expiresOn, isTold } = (await almanac.db.row<{ expiresOn: string; isTold: boolean }>(
      `select expires_on as "expiresOn", expiry_told is not distinct from expires_on as "isTold" from payment_methods where id = $id`,
      { id },
      within,
    )) ?? { expiresOn: '', isTold: true };
    const first = await almanac.db.row<{ id: string; nextOn: string }>(FIRST_CHARGED, { id }, within);
    if (isTold || first === null || method.state !== 'usable') return;
    const subscription = await Subscription.findByPk(first.id, { transaction: within, rejectOnEmpty: true });
    const onceKey = `expiring:${id}:${expiresOn}`;
    await writeAbout(
      almanac,
      subscription,
      {
        ...{ event: 'card expiring', onceKey },
        reason: `The card is good until ${sayDate(expiresOn)}`,
        linkId: (await linkForLetter(subscription, businessDate, within)).id,
        says: {
          ...{ card: saidCard(method), date: onDate(expiresOn) },
          next: sentence(first.nextOn <= expiresOn ? 'still goes through' : 'would not go through', {
            date: onDate(first.nextOn),
          }),
        },
      },
      businessDate,
      within,
    );
    await almanac.db.rows(
      // Nobody was told where such letters are switched off, or the customer has stopped them.
      `update payment_methods set expiry_told = expires_on,
         expiry_told_on = case when exists (select from letters where once_key = $onceKey) then $businessDate::date end
       where id = $id`,
      { id, businessDate, onceKey },
      within,
    );
  });
}
