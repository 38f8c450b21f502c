import type { Collected } from '../../core/recovery/outcomes.ts';
import type { Almanac } from '../almanac.ts';
import type { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { noteHealth } from '../gateways/health.ts';
import { AskedTooFast, type ChargeOutcome, type ChargeRecord } from '../gateways/port.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { raiseNeed } from '../run/needs.ts';
import { Attempt } from './Attempt.ts';
import { noteUnconfirmed } from './unconfirmed.ts';
import { settleAttempt } from './settleAttempt.ts';

/** What was answered about an attempt. */
interface Answered {
  readonly attempt: Attempt;
  readonly account: GatewayAccount;
  readonly outcome: ChargeOutcome;
  /** The business date on which it was learned. */
  readonly on: string;
}

/** What an outcome means. This is the one place that decides it. */
export async function conclude(almanac: Almanac, answered: Answered): Promise<Collected> {
  const { attempt, account, outcome, on } = answered;
  switch (outcome.kind) {
    case 'settled':
      await noteHealth(almanac, account, null);
      if (!isOf(attempt, outcome.charge)) {
        await noteForeignCharge(almanac, attempt, outcome.charge, on);
        return 'under way';
      }
      return settleAttempt(almanac, outcome.charge, on);
    case 'submitted':
      await noteHealth(almanac, account, null);
      if (!isOf(attempt, outcome.charge)) await noteForeignCharge(almanac, attempt, outcome.charge, on);
      else if (outcome.charge.waitsFor) return noteUnconfirmed(almanac, attempt, outcome.charge, on);
      else await noteSubmitted(attempt, outcome.charge);
      return 'under way';
    case 'unknown':
      return 'under way';
    case 'account':
      almanac.gateways.noteTrouble(account, outcome.trouble);
      if (account.disconnectedOn !== null) await sayDisconnected(almanac, account, on);
      else if (!(outcome.trouble instanceof AskedTooFast))
        await noteHealth(almanac, account, outcome.trouble.message);
      return 'waits for its gateway';
    case 'refused':
      await noteHealth(almanac, account, null);
      return refuse(almanac, attempt, outcome.says, on);
  }
}

/** Whether a charge is the one that an attempt asked for: the same sum in the same currency. */
export function isOf({ amount, request }: Attempt, charge: ChargeRecord): boolean {
  return charge.amount === amount && (request === null || charge.currency === request.currency);
}

/** The banks have it: it is asked for again on the day on which they answer, and not before. */
async function noteSubmitted({ id }: Attempt, { expectedOn }: ChargeRecord): Promise<void> {
  await Attempt.update({ expectedOn: expectedOn ?? null }, { where: { id, state: 'under way' } });
}

/** A charge under one of our keys that we did not ask for so: nothing follows from it until a person has looked. */
export async function noteForeignCharge(
  almanac: Almanac,
  attempt: Attempt,
  charge: ChargeRecord,
  on: string,
): Promise<void> {
  const invoice = await Invoice.findByPk(attempt.invoiceId, { rejectOnEmpty: true });
  await almanac.db.transaction((within) =>
    raiseNeed(almanac, within, {
      onceKey: `foreign charge:${attempt.id}`,
      arose: on,
      kind: 'charge does not match',
      says: `The gateway tells of a charge of ${charge.amount} ${charge.currency} in minor units for invoice ${invoice.prefix}${invoice.number}, and ${attempt.amount} ${invoice.currency} were asked for. Nothing was written down: look at the gateway.`,
      subscriptionId: invoice.subscriptionId,
      customerId: invoice.customerId,
    }),
  );
}

/** The gateway made no charge and never will under this key: a person sees to it, the customer is not written to. */
function refuse(almanac: Almanac, { id }: Attempt, says: string, on: string): Promise<Collected> {
  return almanac.db.transaction(async (within): Promise<Collected> => {
    const attempt = await Attempt.findByPk(id, { transaction: within, lock: true, rejectOnEmpty: true });
    if (attempt.state === 'collected' || attempt.state === 'declined') return attempt.state;
    await attempt.update({ state: 'refused', settledAt: new Date() }, { transaction: within });
    const invoice = await Invoice.findByPk(attempt.invoiceId, { transaction: within, rejectOnEmpty: true });
    await raiseNeed(almanac, within, {
      onceKey: `refused:${id}`,
      arose: on,
      kind: 'charge refused',
      says: `The gateway would not take the charge for invoice ${invoice.prefix}${invoice.number}: ${says} The customer was not written to. It is tried again once this is seen to.`,
      subscriptionId: invoice.subscriptionId,
      customerId: invoice.customerId,
    });
    return 'refused';
  });
}

/** The business's own doing, not the customer's: the charge waits, and nobody is written to. */
async function sayDisconnected(almanac: Almanac, account: GatewayAccount, on: string): Promise<void> {
  await almanac.db.transaction((within) =>
    raiseNeed(almanac, within, {
      onceKey: `disconnected:${account.id}:${account.disconnectedOn}`,
      arose: on,
      kind: 'gateway disconnected',
      says: `Charges wait: ${account.name} keeps the cards and is disconnected since ${account.disconnectedOn}. Connect it again in Setup, Gateways.`,
      subscriptionId: null,
      customerId: null,
    }),
  );
}
