import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import type { GatewayAccount } from '../gateways/GatewayAccount.ts';
import type { CardFacts } from '../gateways/port.ts';
import { sayCard } from '../notices/occasions.ts';
import { collectDebts } from '../recovery/newMethod.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { mended } from './changeMethods.ts';
import { PaymentMethod } from './PaymentMethod.ts';

/**
 * A gateway says that a bank has issued a card anew, which it charges under the same token: its expiry and number are taken, and
 * what is owed is charged to it at once, as to any card that is updated. One that says nothing newer changes nothing, in
 * whatever order it comes.
 * @returns whether the card was renewed by it
 */
export async function takeRenewedCard(
  almanac: Almanac,
  account: GatewayAccount,
  { token, network, lastFour, expiresYear, expiresMonth }: Omit<CardFacts, 'holder'>,
  businessDate: string,
): Promise<boolean> {
  const found = await PaymentMethod.findOne({
    where: { gatewayAccountId: account.id, gatewayToken: token, state: ['usable', 'needs-customer'] },
  });
  if (found === null || !isNewer(found, { expiresYear, expiresMonth })) return false;
  const renewed = await almanac.db.transaction(async (within) => {
    const { name: subject } = await lockedCustomer(found.customerId, within);
    const method = await PaymentMethod.findByPk(found.id, { transaction: within, rejectOnEmpty: true });
    const isInUse = method.state === 'usable' || method.state === 'needs-customer';
    if (!isInUse || !isNewer(method, { expiresYear, expiresMonth })) return false;
    const say = () => `${sayCard(method)}, ${method.expiresMonth}/${method.expiresYear}`;
    const before = { card: say() };
    await method.update({ network, lastFour, expiresYear, expiresMonth }, { transaction: within });
    await almanac.db.rows(
      'update payment_methods set renewed_on = $businessDate where id = $id',
      { id: method.id, businessDate },
      within,
    );
    await mended(almanac, method, businessDate, within);
    const did = `took a card that ${account.name} renewed by itself`;
    await recordDone(almanac, { did, subject, before, after: { card: say() } }, within);
    return true;
  });
  if (renewed)
    await collectDebts(
      almanac,
      { customerId: found.customerId, channel: 'by itself', methodId: found.id },
      `renewed ${found.id} ${expiresYear}-${expiresMonth}`,
      businessDate,
      'new method',
    );
  return renewed;
}

interface Expiry {
  readonly expiresYear: number | null;
  readonly expiresMonth: number | null;
}

const isNewer = (known: Expiry, told: Expiry) => monthOf(told) > monthOf(known);
const monthOf = ({ expiresYear, expiresMonth }: Expiry) => (expiresYear ?? 0) * 12 + (expiresMonth ?? 0);
