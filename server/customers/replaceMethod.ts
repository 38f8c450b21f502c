import type { Transaction } from 'sequelize';
import type { CardFacts } from '../gateways/port.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { followNewCard } from '../recovery/openCase.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import type { Channel } from '../payments/channel.ts';
import { Mandate } from './Mandate.ts';
import { PaymentMethod } from './PaymentMethod.ts';

/**
 * Makes a card the customer's method in place of the one before, and records the mandate: what was agreed,
 * when, and from where. Given the same card again it only makes it usable once more.
 */
export async function replaceMethod(
  almanac: Pick<Almanac, 'db'>,
  customerId: string,
  card: CardFacts & { readonly accountId: string },
  given: {
    readonly channel: Channel;
    readonly agreedText: string;
    readonly on: string;
    readonly policyId: string | null;
  },
  within: Transaction,
): Promise<PaymentMethod> {
  // Two cards given at once are taken one after the other: the later one is in use.
  await lockedCustomer(customerId, within);
  await PaymentMethod.update({ state: 'replaced' }, { where: { customerId }, transaction: within });
  const { token, accountId: gatewayAccountId, ...rest } = card;
  const facts = { ...rest, gatewayAccountId };
  const known = await PaymentMethod.findOne({
    where: { customerId, gatewayToken: token },
    transaction: within,
  });
  const method = known
    ? await known.update({ state: 'usable', ...facts }, { transaction: within })
    : await PaymentMethod.create(
        { customerId, gatewayToken: token, ...facts, state: 'usable', addedOn: given.on },
        { transaction: within },
      );
  await Mandate.create(
    {
      paymentMethodId: method.id,
      agreedText: given.agreedText,
      channel: given.channel,
      givenOn: given.on,
      policyId: given.policyId,
      ...evidence(),
    },
    { transaction: within },
  );
  await followNewCard(almanac, customerId, given.on, within);
  return method;
}

/** From where a mandate is given: the browser of whoever gives it, or of the staff who type it in. */
function evidence() {
  const { address, agent } = askerNow();
  return { address, agent: agent.slice(0, 300) };
}
