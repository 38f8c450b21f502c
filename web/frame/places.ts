import { isAtLeast } from './ranks.ts';
import type { Role } from '../../server/staff/messages.ts';

/** A screen, or something that can be done, that is found by words for it. */
interface Place {
  readonly says: string;
  readonly path: string;
  /** Other words by which somebody may look for it. */
  readonly words: string;
  /** Who comes there at least. */
  readonly least: Role;
}

const PLACES: readonly Place[] = [
  place('Enrol a customer', '/enrol', 'new subscription add sign up sell', 'biller'),
  place('Drafts', '/drafts', 'half filled unfinished enrolment invoice later', 'biller'),
  place('Bring in customers from a file', '/import', 'import csv spreadsheet upload migrate', 'biller'),
  place('New plan', '/plans/new', 'offer product add', 'biller'),
  place('The offer as a file', '/plans/file', 'export import json download upload', 'biller'),
  place('Sign-up pages', '/sign-up-pages', 'join page form embed link share checkout', 'reader'),
  place('New sign-up page', '/sign-up-pages/new', 'join page form add', 'biller'),
  place('Sites that show sign-up pages', '/setup/sites', 'embed frame iframe domain', 'biller'),
  place('Discounts and codes', '/discounts', 'coupon voucher promotion', 'reader'),
  place('Rate cards', '/rate-cards', 'special prices group volume', 'reader'),
  place('Subscriptions in trial', '/subscriptions?state=trial', 'trials ending free', 'reader'),
  place('Paused subscriptions', '/subscriptions?state=paused', 'pause rest resume go on', 'reader'),
  place('Overdue subscriptions', '/subscriptions?state=overdue', 'owe late debt arrears', 'reader'),
  place('Overdue invoices', '/invoices?state=overdue', 'owe late debt unpaid arrears', 'reader'),
  place('Payments that were declined', '/payments?state=declined', 'failed card', 'reader'),
  place('Money that went back', '/payments?state=refunded', 'refund refunds returned', 'reader'),
  place('Credit notes', '/credit-notes', 'credited corrected withdrawn settlement', 'reader'),
  place('Retries of failed payments: ladders', '/ladders', 'retry rungs reminders lapse dunning', 'reader'),
  place('Make a ladder', '/ladders/new', 'retry rungs recovery add', 'biller'),
  place('Cards that expire', '/expiring-cards', 'expiry expiring renew old cards', 'reader'),
  place(
    'What recovery brings: figures',
    '/recovery-figures',
    'recovered rate lapses lost money report',
    'reader',
  ),
  place('What-if: ladders compared', '/ladders/what-if', 'compare suggest chance model forecast', 'reader'),
  place(
    'Stop collecting for a while',
    '/suspensions',
    'suspend hold freeze pause collection resume',
    'reader',
  ),
  place(
    'Letters that go out',
    '/setup/recovery',
    'switch off notices reminders words language template unsubscribe',
    'biller',
  ),
  place('Cases that are open', '/cases?state=open', 'recover decline failed retry lapsed', 'reader'),
  place(
    'Letters that could not be delivered',
    '/letters?state=undeliverable',
    'bounce mail e-mail',
    'reader',
  ),
  place('Readiness', '/setup', 'checklist ready to sell go live', 'reader'),
  place(
    'Name, address and currency of the business',
    '/setup/business',
    'legal tax number time zone country',
    'biller',
  ),
  place('Text on card statements', '/setup/business', 'statement text descriptor bank', 'biller'),
  place('Look: logo and colours', '/setup/look', 'branding picture icon', 'biller'),
  place(
    'Invoices: numbers, notes, fields',
    '/setup/invoices',
    'prefix series footer payment term days',
    'biller',
  ),
  place('What customers are asked', '/setup/customers', 'fields address phone countries served', 'biller'),
  place('Terms and policies', '/setup/policies', 'legal privacy conditions', 'biller'),
  place('Gateway accounts', '/setup/gateways', 'connect cards payments processor', 'biller'),
  place('Taxes', '/setup/taxes', 'vat rate gst sales tax', 'biller'),
  place('Holidays and working days', '/setup/calendar', 'weekend bank holiday calendar', 'biller'),
  place(
    'Letters: sender and what is written',
    '/setup/mail',
    'e-mail notices templates smtp speed',
    'biller',
  ),
  place('People and invitations', '/setup/people', 'staff users roles team', 'owner'),
  place('Security', '/setup/security', 'second factor idle sign out', 'owner'),
  place('API keys', '/setup/keys', 'programs integration token', 'owner'),
  place('Audit', '/setup/audit', 'log history who did what', 'owner'),
  place('My password, second factor and notices', '/me', 'account profile sign in two-factor', 'reader'),
  place('Try terms out', '/rehearsal', 'rehearsal preview what if simulate', 'reader'),
];

function place(says: string, path: string, words: string, least: Role): Place {
  return { says, path, words, least };
}

/** The screens and acts in whose words every word that was typed begins one; the nearest first, a few of them. */
export function placesFound(text: string, role: Role) {
  const typed = wordsOf(text);
  if (typed.length === 0 || text.trim().length < 2) return [];
  const begins = (words: readonly string[], start: string) => words.some((word) => word.startsWith(start));
  return PLACES.filter(({ least }) => isAtLeast(role, least))
    .map((one) => ({ one, named: wordsOf(one.says), all: wordsOf(`${one.says} ${one.words}`) }))
    .filter(({ all }) => typed.every((start) => begins(all, start)))
    .sort(
      (a, b) =>
        Number(typed.every((t) => begins(b.named, t))) - Number(typed.every((t) => begins(a.named, t))),
    )
    .slice(0, 5)
    .map(({ one: { says, path } }) => ({ kind: 'screen' as const, says, path, detail: '', exactly: null }));
}

const wordsOf = (text: string) => text.toLowerCase().match(/[\p{L}\p{N}-]+/gu) ?? [];
