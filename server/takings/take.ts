import type { Transaction } from 'sequelize';
import { toDay } from '../../core/dates/day.ts';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { invoiceWrittenOff, overPaid, paymentCollected, type MoneyAt } from '../books/entries.ts';
import { post } from '../books/post.ts';
import { sayEntries } from '../books/sayEntry.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { moveCredit } from '../customers/credit.ts';
import type { Customer } from '../customers/Customer.ts';
import { unnested } from '../db/unnested.ts';
import { noteAltered } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Invoice } from '../invoices/Invoice.ts';
import { requireNothingUnderWay } from '../invoices/lockInvoice.ts';
import { MEANS_NAMES, type MeansByHand } from '../payments/meansKinds.ts';
import { writePayments } from '../payments/writePayments.ts';
import { queueReceipts } from '../notices/receipts.ts';
import { closeIfPaid } from '../recovery/closeCase.ts';
import { RecoveryCase } from '../recovery/RecoveryCase.ts';
import { lockedCustomer, lockedSubscription } from '../subscriptions/lock.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import type { PayableInvoice, TakingEffect, WantedTaking } from './messages.ts';

/** Money that came in so many days ago at most is written down: what is older is an accountant's affair. */
const MOST_DAYS_AGO = 366;

/** Where money by hand is. */
export const placeOfMeans = (means: MeansByHand): MoneyAt => (means === 'cash' ? 'cash' : 'bank');

/** What a payment by hand would do. Changes nothing. */
export function effectOfTaking(
  almanac: Almanac,
  customerId: string,
  wanted: WantedTaking,
): Promise<TakingEffect> {
  return almanac.db.transaction(
    async (within) => (await prepare(almanac, customerId, wanted, within)).effect,
  );
}

/**
 * Writes down money that staff took: it pays the invoices in their order, what is left is the customer's credit, and a case of
 * which nothing is owed any more is closed. What comes in for an invoice that was written off is recovered.
 */
export function take(almanac: Almanac, customerId: string, wanted: WantedTaking): Promise<TakingEffect> {
  return almanac.db.transaction(async (within) => {
    const { customer, parts, over, effect, today } = await prepare(almanac, customerId, wanted, within);
    if (wanted.over !== effect.over)
      throw new RefusedCommand(
        409,
        `It comes out otherwise than it was shown: ${over === 0n ? 'nothing' : sayAmount(over, wanted.currency)} is over. Look at it once more.`,
        '/over',
      );
    const takingId = await writeTaking(almanac, customerId, { wanted, over }, within);
    await recover(almanac, parts, wanted.receivedOn, within);
    await pay(almanac, { takingId, wanted, parts, customer }, within);
    await keepOver(almanac, { takingId, customerId, wanted, over }, within);
    for (const { invoice, subscription } of parts) {
      await invoice.reload({ transaction: within });
      noteAltered(within, subscription.id);
      await closeIfPaid(almanac, { subscription, invoice }, today, within);
    }
    await recordDone(
      almanac,
      {
        did: 'took a payment by hand',
        subject: customer.name,
        after: {
          ...{ means: MEANS_NAMES[wanted.means], amount: sayAmount(BigInt(wanted.amount), wanted.currency) },
          ...{ receivedOn: wanted.receivedOn, invoices: effect.paid.map(({ invoice }) => invoice) },
          ...(over === 0n ? {} : { over: sayAmount(over, wanted.currency) }),
        },
      },
      within,
    );
    return effect;
  });
}

/** What a payment by hand may pay of a customer, the oldest first: what is open, and what was given up. */
export function payableInvoices(
  { db }: Almanac,
  customerId: string,
  within?: Transaction,
): Promise<PayableInvoice[]> {
  return db.rows<PayableInvoice>(
    `select i.id::text, i.prefix || i.number as number, i.due_on as "dueOn", i.currency, i.owed::text, i.state, p.name as plan,
       exists (select from attempts a where a.invoice_id = i.id and (a.state = 'under way' or a.goes_on)) as "underWay"
     from invoices i join subscriptions s on s.id = i.subscription_id join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
     where i.customer_id = $customerId and i.state in ('issued', 'part-paid', 'written off') and i.owed > 0
     order by i.state = 'written off', i.due_on, i.id`,
    { customerId },
    within,
  );
}

/** An invoice, and what of it is paid. */
interface Part {
  readonly invoice: Invoice;
  readonly subscription: Subscription;
  readonly amount: bigint;
  readonly closesCase: boolean;
}

async function prepare(almanac: Almanac, customerId: string, wanted: WantedTaking, within: Transaction) {
  const today = await businessDateOf(almanac, within);
  const customer = await lockedCustomer(customerId, within);
  if (wanted.receivedOn > today)
    throw new RefusedCommand(422, 'It cannot have come in after today.', '/receivedOn');
  if (toDay(today) - toDay(wanted.receivedOn) > MOST_DAYS_AGO)
    throw new RefusedCommand(422, `At most ${MOST_DAYS_AGO} days ago.`, '/receivedOn');
  let left = BigInt(wanted.amount);
  const parts: Part[] = [];
  for (const [i, { invoice, subscription }] of (
    await locked(customerId, wanted.invoices, within)
  ).entries()) {
    if (invoice.currency !== wanted.currency)
      throw new RefusedCommand(422, `This invoice is in ${invoice.currency}.`, `/invoices/${i}`);
    if (!['issued', 'part-paid', 'written off'].includes(invoice.state) || invoice.owed <= 0n)
      throw new RefusedCommand(409, 'Nothing of this invoice is open any more.', `/invoices/${i}`);
    await requireNothingUnderWay(almanac, invoice, within);
    if (left === 0n)
      throw new RefusedCommand(422, 'Nothing is left for this invoice: take it off.', `/invoices/${i}`);
    const amount = left < invoice.owed ? left : invoice.owed;
    left -= amount;
    const open = await RecoveryCase.findOne({
      where: { id: invoice.caseId ?? '0', state: 'open' },
      transaction: within,
    });
    parts.push({ invoice, subscription, amount, closesCase: open !== null && amount === invoice.owed });
  }
  const at = placeOfMeans(wanted.means);
  const { currency, receivedOn: on } = wanted;
  const entries = [
    ...parts.map(({ invoice, amount }) =>
      paymentCollected({ ...{ id: '0', invoiceId: invoice.id, amount, currency, at }, paidOn: on }),
    ),
    ...parts
      .filter(({ invoice }) => invoice.state === 'written off')
      .map(({ invoice, amount }) => invoiceWrittenOff({ invoiceId: invoice.id, amount, currency, on }, true)),
    overPaid({ takingId: '0', amount: left, currency, on, at }),
  ];
  const effect: TakingEffect = {
    ...{ currency, amount: wanted.amount, over: left.toString() },
    paid: parts.map(({ invoice, amount, closesCase }) => ({
      ...{ id: invoice.id, invoice: `${invoice.prefix}${invoice.number}`, owed: invoice.owed.toString() },
      ...{ paid: amount.toString(), left: (invoice.owed - amount).toString() },
      ...{ recovered: invoice.state === 'written off', closesCase },
    })),
    books: await sayEntries(almanac, entries),
  };
  return { customer, parts, over: left, effect, today };
}

/** The invoices of a customer in the order asked for, with their subscriptions, locked in one order. */
async function locked(
  customerId: string,
  ids: readonly string[],
  within: Transaction,
): Promise<{ invoice: Invoice; subscription: Subscription }[]> {
  const found = await Invoice.findAll({ where: { id: [...ids], customerId }, transaction: within });
  const at = ids.findIndex((id, i) => !found.some((one) => one.id === id) || ids.indexOf(id) !== i);
  if (at !== -1)
    throw new RefusedCommand(422, 'This is no invoice of the customer, or named twice.', `/invoices/${at}`);
  const subscriptions = new Map<string, Subscription>();
  for (const id of [...new Set(found.map(({ subscriptionId }) => subscriptionId))].toSorted(byNumber))
    subscriptions.set(id, await lockedSubscription(id, within));
  for (const invoice of found.toSorted((a, b) => byNumber(a.id, b.id)))
    await invoice.reload({ transaction: within, lock: within.LOCK.UPDATE });
  return ids.flatMap((id) => {
    const invoice = found.find((one) => one.id === id);
    const subscription = invoice && subscriptions.get(invoice.subscriptionId);
    return invoice && subscription ? [{ invoice, subscription }] : [];
  });
}

const byNumber = (a: string, b: string) => Number(BigInt(a) - BigInt(b));

async function writeTaking(
  { db }: Almanac,
  customerId: string,
  { wanted, over }: { readonly wanted: WantedTaking; readonly over: bigint },
  within: Transaction,
): Promise<string> {
  const { means, currency, amount, receivedOn, reference, note } = wanted;
  const row = await db.row<{ id: string }>(
    `insert into takings (customer_id, means, currency, amount, over, received_on, reference, note, taken_by)
     values ($customerId, $means, $currency, $amount, $over, $receivedOn, $reference, $note, $takenBy) returning id::text`,
    {
      ...{ customerId, means, currency, amount, over: over.toString(), receivedOn, reference, note },
      takenBy: askerNow().who,
    },
    within,
  );
  if (!row) throw new Error('The payment was not written.');
  return row.id;
}

/** What comes in for an invoice that was written off is not given up any more. */
async function recover(
  almanac: Almanac,
  parts: readonly Part[],
  on: string,
  within: Transaction,
): Promise<void> {
  await post(
    almanac,
    parts
      .filter(({ invoice }) => invoice.state === 'written off')
      .map(({ invoice, amount }) =>
        invoiceWrittenOff({ invoiceId: invoice.id, amount, currency: invoice.currency, on }, true),
      ),
    within,
  );
}

async function pay(
  almanac: Almanac,
  of: {
    readonly takingId: string;
    readonly wanted: WantedTaking;
    readonly parts: readonly Part[];
    readonly customer: Customer;
  },
  within: Transaction,
): Promise<void> {
  const { takingId, wanted, parts, customer } = of;
  if (parts.length === 0) return;
  const { means, currency, receivedOn: paidOn } = wanted;
  const { table, bound } = unnested(
    { invoice_id: 'bigint', amount: 'bigint', key: 'text' },
    parts.map(({ invoice, amount }) => ({
      ...{ invoice_id: invoice.id, amount, key: `taking ${takingId}:${invoice.id}` },
    })),
  );
  const attempts = await almanac.db.rows<{ id: string; invoice_id: string }>(
    `insert into attempts (invoice_id, customer_id, idempotency_key, amount, reason, channel, state, attempted_on, settled_at, means, taking_id)
     select invoice_id, $customerId::bigint, key, amount, 'by staff', 'staff', 'collected', $paidOn::date, now(), $means, $takingId::bigint
     from ${table} order by place returning id::text, invoice_id::text`,
    { ...bound, paidOn, means, takingId, customerId: customer.id },
    within,
  );
  const attemptOf = new Map(attempts.map(({ id, invoice_id }) => [invoice_id, id]));
  const paymentIds = await writePayments(
    almanac,
    parts.map(({ invoice, amount }) => ({
      ...{ invoiceId: invoice.id, attemptId: attemptOf.get(invoice.id) ?? '', amount, currency, paidOn },
      at: placeOfMeans(means),
    })),
    within,
  );
  if (!wanted.receipt) return;
  const names = await almanac.db.rows<{ id: string; plan: string; business: string }>(
    `select s.id::text, coalesce(nullif(p.outer_name, ''), p.name) as plan, b.name as business
     from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id cross join business b
     where s.id = any($ids::bigint[])`,
    { ids: parts.map(({ subscription }) => subscription.id) },
    within,
  );
  await queueReceipts(
    almanac,
    parts.map(({ invoice, subscription, amount }, i) => {
      const named = names.find(({ id }) => id === subscription.id);
      return {
        ...{ paymentId: paymentIds[i] ?? '', customerId: customer.id, subscriptionId: subscription.id },
        ...{ customer: customer.name, email: customer.email },
        ...{ plan: named?.plan ?? '', business: named?.business ?? '' },
        ...{ amount, currency, paidOn, invoice: `${invoice.prefix}${invoice.number}` },
        ...{ periodFrom: invoice.periodFrom, periodTo: invoice.periodTo },
        ...{ card: null, means, statementText: '' },
      };
    }),
    within,
  );
}

async function keepOver(
  almanac: Almanac,
  of: {
    readonly takingId: string;
    readonly customerId: string;
    readonly wanted: WantedTaking;
    readonly over: bigint;
  },
  within: Transaction,
): Promise<void> {
  const { takingId, customerId, wanted, over } = of;
  if (over === 0n) return;
  const { currency, receivedOn: on, means } = wanted;
  await moveCredit(
    almanac,
    [{ customerId, currency, amount: over, movedOn: on, why: 'over-payment', takingId }],
    within,
  );
  await post(almanac, [overPaid({ takingId, amount: over, currency, on, at: placeOfMeans(means) })], within);
}
