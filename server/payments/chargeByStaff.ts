import { z } from 'zod';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { findMethod } from '../customers/findMethod.ts';
import { Mandate } from '../customers/Mandate.ts';
import { IN_USE, PaymentMethod } from '../customers/PaymentMethod.ts';
import { RefusedCommand } from '../http/problem.ts';
import { sayCard } from '../notices/occasions.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { payableInvoices } from '../takings/take.ts';
import { collectInvoice } from './collect.ts';
import type { Collected } from '../../core/recovery/outcomes.ts';

const id = z.string().regex(/^\d{1,18}$/);

/** Invoices that staff charge to a card now: to one on file, or to one that is told or read and not kept. */
export const staffChargeSchema = z
  .strictObject({
    invoices: z.array(id).min(1, 'Choose an invoice.').max(20, 'At most 20 invoices at once.'),
    /** A method of the customer's. */
    methodId: id.optional(),
    /** The gateway's token of a card that was typed in, or read on the reader: it is charged once and not kept. */
    token: z.string().min(8).max(100).optional(),
    read: z.boolean().default(false),
    /** What they come to, as it was shown: minor units. */
    amount: z.string().regex(/^\d{1,15}$/),
  })
  .refine(({ methodId, token }) => (methodId === undefined) !== (token === undefined), {
    message: 'Choose a card on file, or give another.',
    path: ['methodId'],
  });
export type StaffCharge = z.input<typeof staffChargeSchema>;
type Wanted = z.output<typeof staffChargeSchema>;

/** How each invoice came out. */
export interface StaffCharged {
  readonly card: string;
  readonly charged: readonly { readonly id: string; readonly invoice: string; readonly outcome: Collected }[];
}

/** What a card is agreed to be charged with that is not kept. */
const ONE_PAYMENT = 'This one payment, agreed to with staff; the card is not kept.';

/**
 * Charges invoices to a card while its holder is on the telephone or at the counter. A card that is not kept is forgotten once
 * its outcome is known. What is asked for twice under one key is one charge.
 */
export async function chargeByStaff(
  almanac: Almanac,
  customerId: string,
  wanted: Wanted,
): Promise<StaffCharged> {
  const on = await businessDateOf(almanac);
  const invoices = await requirePayable(almanac, customerId, wanted);
  const method =
    wanted.methodId === undefined
      ? await takeOnce(almanac, customerId, wanted, on)
      : await methodOnFile(customerId, wanted.methodId);
  const key = askerNow().onceUnder?.key ?? `${method.id} ${on} ${invoices.map(({ owed }) => owed).join(' ')}`;
  const charged: StaffCharged['charged'][number][] = [];
  for (const { id: invoiceId, number } of invoices) {
    const outcome = await collectInvoice(almanac, {
      ...{ invoiceId, reason: 'by staff', channel: wanted.read ? 'reader' : 'staff', businessDate: on },
      ...{ occasion: `staff ${key}`, methodId: method.id },
    });
    charged.push({ id: invoiceId, invoice: number, outcome });
  }
  if (wanted.token !== undefined && !charged.some(({ outcome }) => UNKNOWN.includes(outcome)))
    await method.update({ state: 'replaced' });
  await recordDone(almanac, {
    did: 'charged a card by hand',
    subject: customerId,
    after: {
      card: sayCard(method),
      charged: charged.map(({ invoice, outcome }) => `${invoice}: ${outcome}`),
    },
  });
  return { card: sayCard(method), charged };
}

/**
 * Cards that were charged for one payment and are no longer asked about: of what waited for its outcome, or its cardholder, it is
 * known only days later.
 */
export const CARDS_TO_FORGET = {
  due: `select m.id::text as item from payment_methods m
    where m.role = 'own' and m.state = any($inUse::text[])
      and not exists (select from subscriptions s where s.own_method_id = m.id)
      and not exists (select from attempts a where a.payment_method_id = m.id and a.state = 'under way')
      and (select d.agreed_text from mandates d where d.payment_method_id = m.id order by d.id desc limit 1) = $agreed
    order by m.id`,
  bound: { inUse: [...IN_USE], agreed: ONE_PAYMENT },
} as const;

/** Forgets a card that was agreed to be charged once: it is charged no more. */
export async function forgetCard(id: string): Promise<void> {
  await PaymentMethod.update({ state: 'replaced' }, { where: { id, role: 'own', state: IN_USE } });
}

/** Outcomes after which the card is still asked about. */
const UNKNOWN: readonly Collected[] = ['under way', 'waits for the cardholder', 'waits for its gateway'];

async function requirePayable(almanac: Almanac, customerId: string, wanted: Wanted) {
  const payable = await payableInvoices(almanac, customerId);
  const invoices = wanted.invoices.map((invoiceId, i) => {
    const found = payable.find((one) => one.id === invoiceId && one.state !== 'written off');
    if (!found || wanted.invoices.indexOf(invoiceId) !== i)
      throw new RefusedCommand(
        409,
        'Nothing of this invoice is open any more, or it is named twice.',
        `/invoices/${i}`,
      );
    if (found.underWay)
      throw new RefusedCommand(409, `Invoice ${found.number} is being charged already.`, `/invoices/${i}`);
    return found;
  });
  const currencies = new Set(invoices.map(({ currency }) => currency));
  if (currencies.size > 1)
    throw new RefusedCommand(422, 'Charge the invoices of one currency at a time.', '/invoices');
  const owed = invoices.reduce((sum, one) => sum + BigInt(one.owed), 0n);
  if (owed.toString() !== wanted.amount)
    throw new RefusedCommand(
      409,
      `It comes to ${sayAmount(owed, invoices[0]?.currency ?? '')} now, and not to what was shown. Look at it once more.`,
      '/amount',
    );
  return invoices;
}

async function methodOnFile(customerId: string, methodId: string): Promise<PaymentMethod> {
  const method = await PaymentMethod.findOne({ where: { id: methodId, customerId, state: IN_USE } });
  if (!method) throw new RefusedCommand(422, 'There is no such card of this customer any more.', '/methodId');
  if (method.state !== 'usable')
    throw new RefusedCommand(422, 'This card cannot be charged: take another.', '/methodId');
  return method;
}

/** Keeps a card for this one payment: no subscription is charged with it. */
async function takeOnce(
  almanac: Almanac,
  customerId: string,
  wanted: Wanted,
  on: string,
): Promise<PaymentMethod> {
  const channel = wanted.read ? 'reader' : 'staff';
  const given = { kind: 'card' as const, token: wanted.token ?? '' };
  const found = await findMethod(almanac, given, '/token', { customerId, channel });
  return almanac.db.transaction(async (within) => {
    await lockedCustomer(customerId, within);
    const where = { customerId, gatewayToken: found.token };
    const known = await PaymentMethod.findOne({ where, transaction: within });
    if (known && known.state !== 'replaced') return known;
    const { token, accountId, checkCode: _, ...facts } = found;
    const values = { ...facts, gatewayAccountId: accountId, role: 'own' as const, state: 'usable' as const };
    const method = known
      ? await known.update(values, { transaction: within })
      : await PaymentMethod.create(
          { customerId, gatewayToken: token, ...values, addedOn: on },
          { transaction: within },
        );
    const { address, agent } = askerNow();
    await Mandate.create(
      {
        ...{ paymentMethodId: method.id, agreedText: ONE_PAYMENT, channel, givenOn: on, policyId: null },
        ...{ address, agent: agent.slice(0, 300) },
      },
      { transaction: within },
    );
    return method;
  });
}
