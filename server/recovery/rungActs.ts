import { sayIn } from '../../core/letters/sayIn.ts';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { raiseNeed } from '../run/needs.ts';
import { tellStaff } from '../staff/notices.ts';
import type { Climbing } from './climbing.ts';
import { keyOfRung } from './closeCase.ts';
import { HOUSE_MANNER } from '../notices/compose.ts';
import { sayOwed } from './unpaid.ts';
import { whyUnpaid } from './write.ts';

/** Which rung of a case, on which of the ladders that it has climbed. */
interface Which {
  readonly rung: number;
  readonly leg: number;
}

const keyOf = ({ opened }: Climbing, which: Which) => keyOfRung(opened.id, which);

/** Tells staff that a case has come to this rung. */
export async function tellOfRung(
  almanac: Almanac,
  climbing: Climbing,
  which: Which,
  within: Transaction,
): Promise<void> {
  const { subscription, opened, ladder, businessDate } = climbing;
  const { name } = await Customer.findByPk(subscription.customerId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const owed = await sayOwed(almanac, climbing, within);
  const why = sayIn(await whyUnpaid(almanac, climbing, within), HOUSE_MANNER);
  await tellStaff(
    almanac,
    {
      ...{ kind: 'rung climbed', onceKey: keyOf(climbing, which), writtenOn: businessDate },
      subject: `${name}: ${owed} is still open`,
      says: `${owed} of ${name} has been open since ${opened.openedOn}: ${why}. The case has come to rung ${which.rung + 1} of ${ladder.rungs.length} of its ladder, ${ladder.name}.`,
    },
    within,
  );
}

/** Puts what a rung asks of a person on the day sheet; it is taken off when the case is closed. */
export async function giveTask(
  almanac: Almanac,
  climbing: Climbing,
  { says, ...which }: Which & { readonly says: string },
  within: Transaction,
): Promise<void> {
  const { subscription, businessDate } = climbing;
  await raiseNeed(almanac, within, {
    ...{ onceKey: keyOf(climbing, which), arose: businessDate, kind: 'recovery task' },
    says: `${says} ${await sayOwed(almanac, climbing, within)} is open.`,
    ...{ subscriptionId: subscription.id, customerId: subscription.customerId },
  });
}
