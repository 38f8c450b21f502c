import type { Almanac } from '../almanac.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { AccountTrouble, outcomeOf, type ChargeOutcome, type GatewayPort } from '../gateways/port.ts';
import { Attempt } from './Attempt.ts';
import type { Collected } from '../../core/recovery/outcomes.ts';
import { conclude } from './outcome.ts';

/**
 * So long after it was last sent, a charge that the gateway does not know of will not come any more: no request lives
 * that long. Until then an attempt on a card that was replaced stays under way.
 */
const SURELY_LOST_MS = 3_600_000;

/**
 * Asks the gateway about an attempt, and writes down what came of it. What was ever sent is asked for by its key before
 * anything is concluded, and is sent again only as the very same request, to the very same account.
 * @param on the business date on which the outcome is learned
 */
export async function askGateway(
  almanac: Almanac,
  attempt: Attempt,
  on: string,
): Promise<Collected | 'withdrawn'> {
  const account = await GatewayAccount.findByPk(attempt.gatewayAccountId, { rejectOnEmpty: true });
  const trouble = almanac.gateways.troubleNow(account);
  const outcome = trouble
    ? ({ kind: 'account', trouble, didNothing: true } as const)
    : await ask(almanac.gateways.of(account), attempt, on);
  if (outcome === 'withdrawn') {
    // It was never made, on a card that was replaced: it never will be.
    const where = { id: attempt.id, state: 'under way' } as const;
    await Attempt.update({ state: 'withdrawn', settledAt: new Date() }, { where });
    return 'withdrawn';
  }
  return conclude(almanac, { attempt, account, outcome, on });
}

async function ask(gateway: GatewayPort, attempt: Attempt, on: string): Promise<ChargeOutcome | 'withdrawn'> {
  const { idempotencyKey, sentAt, request } = attempt;
  if (!request) throw new Error(`Attempt ${attempt.id} has no request to send.`);
  if (sentAt !== null) {
    const found = await find(gateway, idempotencyKey, on);
    if (found.kind !== 'unknown') return found;
  }
  if (await isOnReplacedCard(attempt)) {
    const isLost = sentAt === null || Date.now() - sentAt.getTime() > SURELY_LOST_MS;
    return isLost ? 'withdrawn' : { kind: 'unknown' };
  }
  const where = { id: attempt.id, state: 'under way' } as const;
  const [stillPending] = await Attempt.update({ sentAt: new Date() }, { where });
  if (stillPending === 0) {
    // Meanwhile another has settled it, or given it up for a newer card: then it is not sent any more.
    const { state } = await attempt.reload();
    return state === 'withdrawn' ? 'withdrawn' : find(gateway, idempotencyKey, on);
  }
  const outcome = await gateway.charge({ ...request, idempotencyKey, amount: BigInt(request.amount) });
  if (outcome.kind === 'unknown') return find(gateway, idempotencyKey, on);
  // The gateway turned this request away, so that it did nothing; an earlier one under the key may have.
  if (outcome.kind === 'account' && outcome.didNothing)
    await Attempt.update({ sentAt }, { where: { id: attempt.id } });
  return outcome;
}

/** What the gateway has under a key on a day; `unknown` where that is nothing. */
export async function find(gateway: GatewayPort, idempotencyKey: string, on: string): Promise<ChargeOutcome> {
  try {
    const charge = await gateway.find(idempotencyKey, on);
    return charge ? outcomeOf(charge) : { kind: 'unknown' };
  } catch (error) {
    if (error instanceof AccountTrouble) return { kind: 'account', trouble: error, didNothing: false };
    throw error;
  }
}

async function isOnReplacedCard({ paymentMethodId }: Attempt): Promise<boolean> {
  const method = await PaymentMethod.findByPk(paymentMethodId, { rejectOnEmpty: true });
  return method.state === 'replaced';
}
