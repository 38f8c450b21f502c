import type { ExpiringCard } from '../recovery/expiringMessages.ts';
import { minorDigits } from '../../core/money/currency.ts';
import { formatDecimal } from '../../core/money/decimal.ts';
import type { SignUpPageRow } from '../signUp/messages.ts';
import { ACCOUNT_KINDS, type AccountLine } from '../customers/accountMessages.ts';
import type { CreditNoteRow } from '../creditNotes/messages.ts';
import type { InvoiceRow } from '../invoices/messages.ts';
import type { AttemptRow } from '../payments/messages.ts';
import type { AuditRow } from '../audit/messages.ts';
import type { CustomerRow } from '../customers/messages.ts';
import type { DiscountView } from '../discounts/messages.ts';
import type { LetterRow } from '../notices/messages.ts';
import type { PlanRow, RateSubscriber } from '../plans/messages.ts';
import type { EnrolmentDraftRow } from '../reckonings/draftMessages.ts';
import type { RateCardView } from '../rateCards/messages.ts';
import type { CaseRow } from '../recovery/messages.ts';
import type { WaitingRow } from '../recovery/suspensionMessages.ts';
import type { SubscriptionRow } from '../subscriptions/messages.ts';
import type { CsvColumns } from './csv.ts';

/*
 * What stands in the files that lists go out as. Amounts are decimals with a point, their currency in a column beside them;
 * dates are YYYY-MM-DD: a program can read them as well as a spreadsheet.
 */

const amount = (minor: string | null, currency: string) =>
  minor === null ? null : formatDecimal(BigInt(minor), minorDigits(currency));
const sums = (of: readonly { readonly currency: string; readonly amount: string }[] | null) =>
  (of ?? []).map((one) => `${amount(one.amount, one.currency)} ${one.currency}`).join('; ');

export const SUBSCRIPTION_COLUMNS: CsvColumns<SubscriptionRow> = {
  Subscription: (row) => row.id,
  Customer: (row) => row.customer,
  Plan: (row) => row.plan,
  Rate: (row) => row.rate,
  Terms: (row) => row.says,
  State: (row) => row.state,
  Starts: (row) => row.startsOn,
  Ends: (row) => row.endsOn,
  'Next charge': (row) => row.nextOn,
  'Next amount': (row) => amount(row.nextAmount, row.currency),
  Currency: (row) => row.currency,
  Method: (row) => row.method,
  'Cannot be charged': (row) => row.cannotCharge,
};

export const INVOICE_COLUMNS: CsvColumns<InvoiceRow> = {
  Invoice: (row) => row.number,
  State: (row) => row.state,
  Customer: (row) => row.customer,
  Plan: (row) => row.plan,
  From: (row) => row.periodFrom,
  To: (row) => row.periodTo,
  Issued: (row) => row.issuedOn,
  Due: (row) => row.dueOn,
  Total: (row) => amount(row.total, row.currency),
  Owed: (row) => amount(row.owed, row.currency),
  Currency: (row) => row.currency,
  Method: (row) => row.method,
  'Cannot be paid': (row) => row.hindered,
};

export const CREDIT_NOTE_CSV: CsvColumns<CreditNoteRow> = {
  'Credit note': (row) => row.number,
  For: (row) => row.kind,
  Issued: (row) => row.issuedOn,
  Customer: (row) => row.customer,
  Plan: (row) => row.plan,
  Corrects: (row) => row.invoice,
  Reason: (row) => row.reason,
  Total: (row) => amount(row.total, row.currency),
  'Off the invoice': (row) => amount(row.setOff, row.currency),
  'To credit': (row) => amount(row.toCredit, row.currency),
  Currency: (row) => row.currency,
};

export const PAYMENT_COLUMNS: CsvColumns<AttemptRow> = {
  Payment: (row) => row.id,
  Made: (row) => row.attemptedOn,
  State: (row) => row.state,
  Outcome: (row) => row.says,
  Customer: (row) => row.customer,
  Invoice: (row) => row.invoice,
  Amount: (row) => amount(row.amount, row.currency),
  Refunded: (row) => amount(row.refunded, row.currency),
  Currency: (row) => row.currency,
  Method: (row) => row.method,
};

/** A movement of a customer's account, or what it began with. */
interface AccountRow extends Omit<AccountLine, 'kind' | 'amount'> {
  readonly kind: AccountLine['kind'] | 'opening';
  readonly amount: string | null;
  readonly currency: string;
}

export const ACCOUNT_COLUMNS: CsvColumns<AccountRow> = {
  Day: (row) => row.on,
  What: (row) => (row.kind === 'opening' ? 'Owed before' : ACCOUNT_KINDS[row.kind]),
  About: (row) => row.about,
  Amount: (row) => amount(row.amount, row.currency),
  Owed: (row) => amount(row.balance, row.currency),
  Currency: (row) => row.currency,
};

export const CUSTOMER_COLUMNS: CsvColumns<CustomerRow> = {
  Reference: (row) => row.reference,
  Name: (row) => row.name,
  'E-mail': (row) => row.email,
  Country: (row) => row.country,
  Region: (row) => row.region,
  Group: (row) => row.group,
  Since: (row) => row.createdOn,
  Plans: (row) => row.plans,
  States: (row) => row.states.join('; '),
  Card: (row) => row.card,
  Owes: (row) => sums(row.owed),
  'No tax because': (row) => row.taxExempt,
};

export const CASE_COLUMNS: CsvColumns<CaseRow> = {
  Case: (row) => row.id,
  Customer: (row) => row.customer,
  Plan: (row) => row.plan,
  State: (row) => row.state,
  Opened: (row) => row.openedOn,
  Closed: (row) => row.closedOn,
  Owed: (row) => amount(row.owed, row.currency),
  Currency: (row) => row.currency,
  Why: (row) => row.why,
  Ladder: (row) => row.ladder,
  Rung: (row) => row.rung,
  Attempts: (row) => row.attempts,
  Letters: (row) => row.letters,
  'Chance of recovery': (row) => (row.chance === null ? null : row.chance.toFixed(2)),
  'Looked after by': (row) => row.assigned,
  'Set aside until': (row) => row.asideUntil,
  'Next on': (row) => row.nextOn,
  Next: (row) => row.next,
  How: (row) => row.says,
};

export const WAITING_COLUMNS: CsvColumns<WaitingRow> = {
  Since: (row) => row.on,
  Customer: (row) => row.customer,
  What: (row) => row.kind,
  About: (row) => row.about,
  Amount: (row) => amount(row.owed, row.currency),
  Currency: (row) => row.currency,
};

export const EXPIRING_COLUMNS: CsvColumns<ExpiringCard> = {
  Customer: (row) => row.customer,
  Card: (row) => row.card,
  'Good until': (row) => row.expiresOn,
  When: (row) => row.state,
  'Written to on': (row) => row.toldOn,
  'Next payment': (row) => row.nextOn,
  Amount: (row) => (row.nextAmount === null ? null : amount(row.nextAmount, row.currency)),
  Currency: (row) => row.currency,
  'Other subscriptions': (row) => row.others,
};

export const LETTER_COLUMNS: CsvColumns<LetterRow> = {
  Written: (row) => row.writtenOn,
  Event: (row) => row.event,
  Customer: (row) => row.customer,
  To: (row) => row.to,
  Subject: (row) => row.subject,
  Because: (row) => row.reason,
  State: (row) => row.state,
  Fate: (row) => row.fate,
};

export const PLAN_COLUMNS: CsvColumns<PlanRow> = {
  Name: (row) => row.name,
  Kind: (row) => row.kind,
  Price: (row) => row.price,
  Subscribers: (row) => row.subscribers,
  'A month': (row) => sums(row.monthly),
  'Not sold because': (row) => row.notSold,
};

export const RATE_SUBSCRIBER_COLUMNS: CsvColumns<RateSubscriber> = {
  Subscription: (row) => row.id,
  Customer: (row) => row.customer,
  State: (row) => row.state,
  Version: (row) => row.version,
  Since: (row) => row.since,
  'Moves to version': (row) => row.movesTo,
  'Moves on': (row) => row.movesOn,
};

export const DISCOUNT_COLUMNS: CsvColumns<DiscountView> = {
  Name: (row) => row.name,
  'What it does': (row) => row.says,
  Codes: (row) => row.codes,
  Used: (row) => row.used,
  From: (row) => row.validFrom,
  Until: (row) => row.validTo,
  Archived: (row) => row.archivedOn,
};

export const SIGN_UP_COLUMNS: CsvColumns<SignUpPageRow> = {
  Title: (row) => row.title,
  Address: (row) => row.key,
  Plans: (row) => row.plans,
  State: (row) => row.state,
  Until: (row) => row.until,
  Places: (row) => row.places,
  Seen: (row) => row.seen,
  Joined: (row) => row.joined,
  'A month': (row) => sums(row.monthly),
};

export const DRAFT_COLUMNS: CsvColumns<EnrolmentDraftRow> = {
  For: (row) => row.who,
  What: (row) => row.what,
  'Saved by': (row) => row.savedBy,
  'Saved on': (row) => row.savedOn,
};

export const RATE_CARD_COLUMNS: CsvColumns<RateCardView> = {
  Name: (row) => row.name,
  'What it does': (row) => row.says,
  Taken: (row) => row.taken,
  From: (row) => row.validFrom,
  Until: (row) => row.validTo,
  Archived: (row) => row.archivedOn,
};

export const AUDIT_COLUMNS: CsvColumns<AuditRow> = {
  At: (row) => row.at,
  Who: (row) => row.who,
  Via: (row) => row.via,
  Address: (row) => row.address,
  Did: (row) => row.did,
  Subject: (row) => row.subject,
  Before: (row) => (row.before === null ? null : JSON.stringify(row.before)),
  After: (row) => (row.after === null ? null : JSON.stringify(row.after)),
};
