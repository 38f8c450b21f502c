import type { Transaction } from 'sequelize';
import type { DeclineClass } from '../../core/recovery/declineCodes.ts';
import type { PaymentMethod } from '../customers/PaymentMethod.ts';
import { readOnce } from '../db/readOnce.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { Rate } from '../plans/Rate.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { Ladder } from './Ladder.ts';
import type { LadderMethod, Serves } from './ladderMessages.ts';

/** What a ladder is chosen by. */
export interface Chosen {
  readonly planId: string;
  readonly method: LadderMethod;
  readonly declineClass: DeclineClass;
  readonly currency: string;
  /** What is owed when the case opens, in minor units. */
  readonly owed: bigint;
}

/** Whether a ladder is for a case: all that it names must hold. One that names nothing is for nobody. */
export function isFor({ plans, methods, classes, amount }: Serves, of: Chosen): boolean {
  if (!plans && !methods && !classes && !amount) return false;
  if (plans && !plans.includes(of.planId)) return false;
  if (methods && !methods.includes(of.method)) return false;
  if (classes && !classes.includes(of.declineClass)) return false;
  if (!amount) return true;
  if (amount.currency !== of.currency) return false;
  return (
    (amount.from === null || of.owed >= BigInt(amount.from)) &&
    (amount.to === null || of.owed <= BigInt(amount.to))
  );
}

/** The ladder that a case climbs which is opened now: the first that is for it, or the one for everybody else. */
export async function chooseLadder(
  of: { readonly subscription: Subscription; readonly invoice: Invoice; readonly declineClass: DeclineClass },
  within: Transaction,
): Promise<Ladder> {
  const ladders = await readOnce(within, 'the ladders', () =>
    Ladder.findAll({
      where: { isCurrent: true },
      order: [
        ['isDefault', 'asc'],
        ['place', 'asc'],
        ['id', 'asc'],
      ],
      transaction: within,
    }),
  );
  const { subscription, invoice, declineClass } = of;
  const usual = ladders.find(({ isDefault }) => isDefault);
  if (!usual) throw new Error('There is no ladder for everybody.');
  if (ladders.length === 1) return usual;
  const rate = await Rate.findByPk(subscription.rateId, { transaction: within, rejectOnEmpty: true });
  const chosen: Chosen = {
    ...{ planId: rate.planId, declineClass, currency: invoice.currency, owed: invoice.owed },
    method: await methodOf(subscription, within),
  };
  return ladders.find((ladder) => !ladder.isDefault && isFor(ladder.serves, chosen)) ?? usual;
}

async function methodOf(subscription: Subscription, within: Transaction): Promise<LadderMethod> {
  if (subscription.collects === 'by hand') return 'by hand';
  const method: PaymentMethod | null = await methodInUse(subscription, within);
  return method?.kind === 'bank account' ? 'bank account' : 'card';
}
