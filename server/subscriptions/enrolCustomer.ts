import { randomUUID } from 'node:crypto';
import type { z } from 'zod';
import { requireTerms } from '../../core/terms/check.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { replaceMethod } from '../customers/replaceMethod.ts';
import { GatewayAway } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import { currentMethod } from '../payments/currentMethod.ts';
import { Rate } from '../plans/Rate.ts';
import { faultsOfTerms, termsFromRate } from '../plans/rateTerms.ts';
import { enrol } from './enrol.ts';
import type { enrolmentSchema } from './messages.ts';

const AGREED =
  'The customer agreed by phone or in person that this card is charged for the subscription, on its dates.';

/** Enrols a customer: who they are, the card and the subscription are written down together or not at all. */
export async function enrolCustomer(
  almanac: Almanac,
  wanted: z.output<typeof enrolmentSchema>,
): Promise<{ id: string; customerId: string }> {
  const businessDate = await businessDateOf(almanac);
  if (wanted.starts < businessDate) {
    throw new RefusedCommand(
      422,
      `Start on ${businessDate} or later: earlier periods would all be charged at once.`,
      '/starts',
    );
  }
  const card = wanted.cardToken === undefined ? null : await findCard(almanac, wanted.cardToken);
  return almanac.db.transaction(async (within) => {
    const rate = await Rate.findByPk(wanted.rateId, { transaction: within });
    if (!rate) throw new RefusedCommand(422, 'Choose a plan and a rate.', '/rateId');
    const chosen = termsFromRate(rate.terms, wanted);
    const faults = faultsOfTerms(chosen);
    if (faults.length > 0) throw new RefusedTerms(faults);
    const terms = requireTerms(chosen);
    const { customer: who } = wanted;
    const customer =
      'id' in who
        ? await Customer.findByPk(who.id, { transaction: within })
        : await Customer.create(
            { reference: `new-${randomUUID()}`, name: who.name, email: who.email, createdOn: businessDate },
            { transaction: within },
          );
    if (!customer) throw new RefusedCommand(422, 'Choose a customer.', '/customer');
    if (card) {
      const given = { channel: 'staff', agreedText: AGREED, on: businessDate } as const;
      await replaceMethod(customer.id, card, given, within);
    } else if ((await currentMethod(customer.id, within))?.state !== 'usable') {
      throw new RefusedCommand(422, 'There is no card to charge: enter one.', '/cardToken');
    }
    const subscription = await enrol(
      {
        reference: `new-${randomUUID()}`,
        customerId: customer.id,
        rateId: rate.id,
        terms,
        enrolledOn: businessDate,
      },
      within,
    );
    return { id: subscription.id, customerId: customer.id };
  });
}

async function findCard(almanac: Almanac, token: string) {
  try {
    const card = await almanac.gateway.card(token);
    if (card) return card;
  } catch (error) {
    if (!(error instanceof GatewayAway)) throw error;
    throw new RefusedCommand(
      503,
      'The gateway does not answer just now. Nothing was stored; try again in a minute.',
    );
  }
  throw new RefusedCommand(422, 'The gateway does not know this card. Enter it again.', '/cardToken');
}
