import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import type { Payment, PaymentLine, PaymentMoney } from '../../core/listing/payment.ts';
import { formatDecimal } from '../../core/money/decimal.ts';
import { TAX_RATE_PLACES, type CompiledTax } from '../../core/agreed/terms.ts';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { settingsOf } from '../settings/settings.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { Invoice } from './Invoice.ts';
import type { InvoiceLine, InvoiceParties, InvoiceTax } from './invoiceParts.ts';

/**
 * Issues the invoice of one payment of a subscription's listing. Its number is the next of the series, taken in
 * the same transaction, so that the numbers have no gap; the database refuses a second invoice for one boundary.
 */
export async function issueInvoice(
  almanac: Almanac,
  subscription: Subscription,
  payment: Payment,
  lawTax: CompiledTax | null,
  businessDate: string,
  within: Transaction,
): Promise<Invoice> {
  const taken = await almanac.db.row<{ number: string }>(
    'update business set next_invoice_number = next_invoice_number + 1 returning next_invoice_number - 1 as number',
    {},
    within,
  );
  if (!taken) throw new Error('There is no business to issue invoices for.');
  const { money } = payment;
  const { prefix } = (await almanac.db.row<{ prefix: string }>(
    'select prefix from invoice_series where first_number <= $number order by first_number desc limit 1',
    { number: taken.number },
    within,
  )) ?? { prefix: '' };
  return Invoice.create(
    {
      number: taken.number,
      subscriptionId: subscription.id,
      customerId: subscription.customerId,
      kind: payment.kind,
      periodFrom: formatDay(payment.from),
      periodTo: formatDay(payment.to),
      issuedOn: businessDate,
      dueOn: formatDay(payment.dueOn),
      currency: subscription.terms.currency,
      lines: money.lines.map(lineOf),
      taxes: money.taxes.flatMap(({ tax, taxed }): InvoiceTax[] =>
        tax === null
          ? []
          : [
              {
                rate: formatDecimal(tax.rate, TAX_RATE_PLACES),
                mode: tax.mode,
                net: taxed.net.toString(),
                tax: taxed.tax.toString(),
              },
            ],
      ),
      discount: money.discount,
      net: money.net,
      tax: money.tax,
      total: money.total,
      creditUsed: payment.credit,
      state: payment.due === 0n ? 'paid' : 'issued',
      prefix,
      seller: await partiesOf(almanac, subscription.customerId, within),
      fields: subscription.invoiceFields,
      account: await accountOf(almanac, subscription, within),
      lawTax: lawTax && { rate: formatDecimal(lawTax.rate, TAX_RATE_PLACES), mode: lawTax.mode },
    },
    { transaction: within },
  );
}

/** The account of the books that the subscription's version of its rate names. */
async function accountOf(almanac: Almanac, subscription: Subscription, within: Transaction): Promise<string> {
  const { rateId, rateVersion } = subscription;
  const row = await almanac.db.row<{ account: string | null }>(
    `select options ->> 'account' as account from rate_versions where rate_id = $rateId and version = $rateVersion`,
    { rateId, rateVersion },
    within,
  );
  return row?.account ?? '';
}

/**
 * Issues one invoice for all payments of a fixed term, with a due for each: its lines are the sums of theirs, and its
 * tax is by the law of the day it is issued.
 */
export async function issueWholeInvoice(
  almanac: Almanac,
  subscription: Subscription,
  payments: readonly Payment[],
  lawTax: CompiledTax | null,
  businessDate: string,
  within: Transaction,
): Promise<Invoice | null> {
  const [first] = payments;
  if (!first) return null;
  const invoice = await issueInvoice(
    almanac,
    subscription,
    wholeOf(first, payments),
    lawTax,
    businessDate,
    within,
  );
  for (const [i, { dueOn, due }] of payments.entries()) {
    await almanac.db.rows(
      'insert into dues (invoice_id, place, due_on, amount) values ($id, $place, $dueOn, $amount)',
      { id: invoice.id, place: i + 1, dueOn: formatDay(dueOn), amount: due },
      within,
    );
  }
  return invoice;
}

/** All payments of a fixed term as one. */
function wholeOf(first: Payment, payments: readonly Payment[]): Payment {
  const sum = (of: (payment: Payment) => bigint) => payments.reduce((total, one) => total + of(one), 0n);
  const lines = new Map<string, PaymentLine>();
  for (const line of payments.flatMap(({ money }) => money.lines)) {
    const key = `${line.role} ${line.name} ${line.quantity}`;
    const { amount = 0n, discount = 0n } = lines.get(key) ?? {};
    lines.set(key, { ...line, amount: amount + line.amount, discount: discount + line.discount });
  }
  const taxes = new Map<CompiledTax | null, PaymentMoney['taxes'][number]>();
  for (const { tax, taxed } of payments.flatMap(({ money }) => money.taxes)) {
    const { net = 0n, tax: sumOfTax = 0n, total = 0n } = taxes.get(tax)?.taxed ?? {};
    const summed = { net: net + taxed.net, tax: sumOfTax + taxed.tax, total: total + taxed.total };
    taxes.set(tax, { tax, taxed: summed });
  }
  return {
    ...first,
    to: payments.at(-1)?.to ?? first.to,
    credit: sum(({ credit }) => credit),
    due: sum(({ due }) => due),
    money: {
      lines: [...lines.values()],
      taxes: [...taxes.values()],
      discount: sum(({ money }) => money.discount),
      net: sum(({ money }) => money.net),
      tax: sum(({ money }) => money.tax),
      total: sum(({ money }) => money.total),
    },
  };
}

/** Who issues an invoice now, and to whom: kept with it, so that no later setting changes it. */
async function partiesOf(almanac: Almanac, customerId: string, within: Transaction): Promise<InvoiceParties> {
  const business = await settingsOf(almanac, 'business', within);
  const { note, footer } = await settingsOf(almanac, 'invoicing', within);
  const customer = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
  const { name, organisation, address, taxNumber, taxExempt } = customer;
  return {
    legalName: business.legalName || business.name,
    address: business.address,
    taxNumber: business.taxNumber,
    note,
    footer,
    to: { name, organisation, address, taxNumber, taxExempt },
  };
}

function lineOf(line: PaymentLine): InvoiceLine {
  const { name, quantity, amount, discount, part } = line;
  return {
    ...{ name, quantity, amount: amount.toString(), discount: discount.toString() },
    ...(part
      ? {
          part: {
            ...part,
            of: part.of.toString(),
            from: formatDay(part.from),
            to: formatDay(part.to),
          },
        }
      : {}),
  };
}
