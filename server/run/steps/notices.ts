import { remindOfMethod } from '../../customers/askForMethod.ts';
import { METHODS_TO_REMIND } from '../../customers/askForMethod.sql.ts';
import { DUES_TO_TELL, tellOfDue } from '../../invoices/duesComing.ts';
import { INVOICES_TO_REMIND, remindOfInvoice } from '../../invoices/remind.ts';
import { notRenewed, tellOfExpiringCard } from '../../recovery/expiring.ts';
import { CARDS_TO_TELL } from '../../recovery/expiring.sql.ts';
import { RENEWALS_TO_TELL, tellOfRenewal } from '../../subscriptions/renewals.ts';
import type { Step } from '../step.ts';
import { firstPart, ofCustomer, ofInvoice, ofMethod } from './ofSubscription.ts';

/** Writes of renewals that come, where their rate gives notice of them. */
export const tellOfRenewals: Step = {
  name: 'letters of renewals',
  due: RENEWALS_TO_TELL,
  size: 50,
  subscriptionOf: firstPart,
  one: ({ almanac, businessDate }, item) => tellOfRenewal(almanac, item, businessDate),
};

/** Writes of later parts of invoices that come nearer. */
export const tellOfDues: Step = {
  name: 'letters of parts that fall due',
  due: DUES_TO_TELL,
  size: 50,
  subscriptionOf: ofInvoice,
  one: ({ almanac, businessDate }, item) => tellOfDue(almanac, item, businessDate),
};

/** Reminds of invoices that are paid by hand and fall due soon. */
export const remindOfInvoices: Step = {
  name: 'reminders of invoices',
  due: INVOICES_TO_REMIND,
  bound: ({ businessDate }) => ({ businessDate }),
  size: 50,
  holdsNobody: true,
  subscriptionOf: ofInvoice,
  one: ({ almanac, businessDate }, id) => remindOfInvoice(almanac, id, businessDate),
};

/** Reminds customers of the way to pay that they were asked for. */
export const remindOfMethods: Step = {
  name: 'reminders of a way to pay',
  due: METHODS_TO_REMIND,
  size: 50,
  holdsNobody: true,
  subscriptionOf: ofCustomer,
  one: ({ almanac, businessDate }, id) => remindOfMethod(almanac, id, businessDate),
};

/** Writes of cards whose last month has begun. */
export const tellOfCards: Step = {
  name: 'letters of cards that expire',
  due: CARDS_TO_TELL,
  size: 50,
  holdsNobody: true,
  subscriptionOf: ofMethod,
  // Their gateways are asked first about all of them together; then who is left is written to one by one.
  together: ({ almanac, businessDate }, ids) => notRenewed(almanac, ids, businessDate),
  one: ({ almanac, businessDate }, id) => tellOfExpiringCard(almanac, id, businessDate),
};
