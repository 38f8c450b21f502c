import type { Missing } from '../../../parts/useDraftForm.ts';
import { hasExpired } from '../../../../core/dates/cardExpiry.ts';
import { parseDay } from '../../../../core/dates/day.ts';
import type { PlanView, RateView } from '../../../../server/plans/messages.ts';
import { CONTACT_FIELDS, type ContactField } from '../../../../server/settings/messages.ts';
import type { EnrolmentForm, EnrolmentMessage } from '../../../../server/subscriptions/messages.ts';
import { NO_BANK, type TypedBank } from '../../../parts/bank.ts';
import { entryOf, NO_CARD, type TypedCard } from '../../../parts/card.ts';
import type { FirstDue } from '../../../../core/listing/firstDues.ts';
import type { MethodRole } from '../../../../server/customers/methodMessages.ts';
import type { Contact } from '../ContactFields.tsx';
import {
  countsQuantity,
  NO_CHOICE,
  sentAnswers,
  sentExtras,
  takesAmount,
  type AlsoDraft,
  type ChoiceDraft,
  type ComputedChoice,
} from './choice.ts';
import type { NewRate } from './newRate.ts';
import { NOTHING_OWN, sentOwn, type OwnDraft } from './ownDraft.ts';
import type { ContactLetters } from '../../../../server/customers/contactKinds.ts';
import type { Place } from '../../../../server/customers/placeMessages.ts';
import type { Paying, Pays } from './paying.ts';
import type { AlsoChosen } from './useAlso.ts';

/** Somebody beside the customer who gets letters too. */
export interface BesideDraft {
  readonly name: string;
  readonly email: string;
  readonly letters: readonly ContactLetters[];
}

/** A document that was sent ahead, and the letters that it goes with. */
export interface FileDraft {
  readonly id: string;
  readonly name: string;
  readonly goesWith: 'first letter' | 'invoices';
}

/** An enrolment as it is being typed. */
export interface EnrolDraft {
  readonly rateId: string;
  /** It was made for this customer alone. */
  readonly rateOnce: boolean;
  /** A rate that is being made here; null: none is. */
  readonly making: NewRate | null;
  readonly starts: string;
  /** Where it is served or shipped to; null: goods go to the customer's address, all else is served where they live. */
  readonly place: Place | null;
  /** The last day served, of this subscription alone; empty: as the rate says. */
  readonly lastDay: string;
  readonly choice: ChoiceDraft;
  /** What is agreed with this customer alone. */
  readonly own: OwnDraft;
  /** Other plans of it: lines that are charged with the first, or subscriptions of their own. */
  readonly also: readonly AlsoDraft[];
  readonly who: 'new' | 'existing';
  /** What was typed to find somebody. */
  readonly sought: string;
  readonly name: string;
  readonly email: string;
  readonly customerId: string;
  /** Somebody else than the customer who has the same address. */
  readonly another: boolean;
  readonly contact: Contact;
  readonly invoiceFields: Readonly<Record<string, string>>;
  /** null: as is usual. */
  readonly pays: Pays | null;
  readonly card: TypedCard;
  /** The bank account that is typed; never kept. */
  readonly bank: TypedBank;
  /** The gateway account that is to keep the card; empty: the best. */
  readonly keptAt: string;
  /** The token of a card that was read; never kept. */
  readonly cardToken: string | null;
  /** What a card that is given is for, where there is one on file. */
  readonly cardRole: MethodRole;
  /** The card on file that is charged; empty: the one for everything. */
  readonly methodId: string;
  /** Words for the first letter, and whether there is one. */
  readonly firstWords: string;
  readonly firstLetter: boolean;
  /** They are asked to agree to the terms of service on their own page. */
  readonly asksTerms: boolean;
  /** A note for staff alone. */
  readonly staffNote: string;
  readonly contacts: readonly BesideDraft[];
  readonly files: readonly FileDraft[];
}

export function newEnrolment(
  businessDate: string,
  customerId: string | null,
  rateId = '',
  making: NewRate | null = null,
): EnrolDraft {
  return {
    ...{
      rateId,
      rateOnce: false,
      making,
      starts: businessDate,
      place: null,
      lastDay: '',
      also: [],
      choice: NO_CHOICE,
      own: NOTHING_OWN,
    },
    ...{ who: 'existing' as const, sought: '', name: '', email: '', another: false },
    ...{ customerId: customerId ?? '', contact: {}, invoiceFields: {} },
    ...{
      pays: null,
      card: NO_CARD,
      bank: NO_BANK,
      keptAt: '',
      cardToken: null,
      cardRole: 'own' as const,
      methodId: '',
    },
    ...{ firstWords: '', firstLetter: true, asksTerms: false, staffNote: '', contacts: [], files: [] },
  };
}

/** What was typed of a stored draft; its customer is who has the records now, where two were put together. */
export function draftOf({
  value,
  customerId,
}: {
  readonly value: Readonly<Record<string, unknown>>;
  readonly customerId: string | null;
}): Partial<EnrolDraft> {
  const typed = value as Partial<EnrolDraft>;
  return customerId === null || typed.who === 'new' ? typed : { ...typed, customerId };
}

/** What is known beside what is typed. */
export interface EnrolFacts {
  readonly businessDate: string;
  /** The other plans of the same enrolment, in the order of the draft. */
  readonly others: readonly AlsoChosen[];
  readonly plan: PlanView | undefined;
  readonly rate: RateView | undefined;
  readonly computed: ComputedChoice | null;
  readonly variantId: string;
  readonly form: EnrolmentForm | undefined;
  readonly paying: Paying;
  /** The name on a card is demanded. */
  readonly asksHolder: boolean;
  /** An address is known that goods can go to. */
  readonly hasAddress: boolean;
  /** Whoever has the address of somebody new already. */
  readonly sameAddress: string | undefined;
  /** The first charges as they are shown in the margin; null while there are none. */
  readonly shown: readonly FirstDue[] | null;
  /** Why the code is not taken; undefined: it is, or none was typed. */
  readonly codeSays: string | undefined;
}

const EMAIL = /^[^@\s]+@[^@\s]+\.[^@\s]+$/;

/** What an enrolment still needs, in the order of its fields: the one place that decides it. */
export function missingOf(draft: EnrolDraft, facts: EnrolFacts): Missing[] {
  const { rate, computed, paying, form, businessDate } = facts;
  const missing: Missing[] = [];
  const need = (field: string, says: string, isMissing: boolean) => {
    if (isMissing) missing.push({ field, says });
  };
  if (draft.who === 'existing') need('customer', 'the customer', draft.customerId === '');
  else {
    need('customer/name', 'a name', draft.name.trim() === '');
    need('customer/email', 'an e-mail address', !EMAIL.test(draft.email.trim()));
    need(
      'customer/email',
      `whether this is ${facts.sameAddress}`,
      facts.sameAddress !== undefined && !draft.another,
    );
    for (const field of requiredOf(form))
      need(`customer/${field}`, CONTACT_FIELDS[field].toLowerCase(), !draft.contact[field]?.trim());
    for (const { label, required } of form?.ownFields ?? [])
      need(`customer/fields/${label}`, label, required && !draft.contact.fields?.[label]?.trim());
  }
  need('rateId', 'a plan', rate === undefined);
  draft.also.forEach((one, i) => need(`also/${i}/rateId`, 'the plan beside it', one.rateId === ''));
  draft.contacts.forEach(({ name, email }, i) => {
    need(`contacts/${i}/name`, 'the name of whoever gets letters too', name.trim() === '');
    need(`contacts/${i}/email`, 'the address of whoever gets letters too', !EMAIL.test(email.trim()));
  });
  for (const [field] of computed?.faults ?? []) need(field, nameOf(field), true);
  for (const { label, required } of form?.invoiceFields ?? [])
    need(`invoiceFields/${label}`, label, required && !draft.invoiceFields[label]?.trim());
  if (paying.takesCard && rate) {
    const entry = entryOf(draft.card);
    const digits = draft.card.number.replace(/[ -]/g, '');
    need('number', 'a card to charge', !/^\d{12,19}$/.test(digits));
    need('expires', 'when the card expires', entry === null);
    need('expires', 'a card that has not expired', entry !== null && hasExpired(entry, businessDate));
  }
  if (paying.takesCard)
    need('holder', 'the name on the card', facts.asksHolder && draft.card.holder.trim() === '');
  if (paying.way === 'bank') {
    need('iban', 'the IBAN of the account', !draft.bank.isGood);
    need('bankHolder', 'the holder of the account', draft.bank.holder.trim() === '');
  }
  need('reader', 'the card, read on the reader', paying.way === 'reader' && draft.cardToken === null);
  need('starts', 'the day it starts', !(parseDay(draft.starts) !== null && draft.starts >= businessDate));
  if (draft.place !== null) {
    need('place/address', 'the address that it is for', draft.place.address.trim() === '');
    need('place/country', 'the country that it is for', draft.place.country === '');
  } else if (
    facts.plan?.kind === 'goods' ||
    facts.others.some(({ inside, plan }) => inside && plan?.kind === 'goods')
  )
    need('place/address', 'the address that the goods go to', !facts.hasAddress);
  need('codes/0', `a code that is taken, or none`, facts.codeSays !== undefined);
  need('lastDay', 'a last day after the start', !isGoodLastDay(draft));
  return missing;
}

/** The contact fields that Setup demands of a new customer. */
export function requiredOf(form: EnrolmentForm | undefined): ContactField[] {
  return (Object.keys(CONTACT_FIELDS) as ContactField[]).filter((name) => form?.ask[name] === 'required');
}

const isGoodLastDay = ({ lastDay, starts }: EnrolDraft) =>
  lastDay === '' || (parseDay(lastDay) !== null && lastDay >= starts);

export function nameOf(field: string): string {
  if (field === 'quantity') return 'how many';
  if (field === 'amount') return 'their own amount';
  if (field === 'variant') return 'the variant';
  if (field.startsWith('answer:')) return field.slice(7);
  if (field.startsWith('extra:')) return 'how many of an extra line';
  if (field === 'own/noTaxBecause') return 'why no tax is charged';
  if (field.startsWith('own/lines/')) return 'a line of this agreement alone';
  if (field.startsWith('own/')) return 'what is agreed with this customer alone';
  return 'what is chosen of the plan';
}

/**
 * What is sent, good or not. `card` and `bank` go to the gateway alone and are taken out before; they stand here so that a
 * fault of one goes when it is typed anew.
 */
export function messageOf(
  draft: EnrolDraft,
  facts: EnrolFacts,
): EnrolmentMessage & { card: TypedCard; bank: TypedBank } {
  const { rate, paying } = facts;
  const { contact } = draft;
  return {
    ...sentChoice(draft, facts),
    ...sentOthers(draft, facts),
    customer:
      draft.who === 'new'
        ? {
            ...{ name: draft.name.trim(), email: draft.email.trim(), ...contact },
            ...(draft.another ? { another: true } : {}),
          }
        : { id: draft.customerId },
    invoiceFields: { ...draft.invoiceFields },
    ...(draft.rateOnce ? { rateOnce: true } : {}),
    ...(rate ? ownOf(draft.own, rate) : {}),
    ...(draft.place === null ? {} : { place: draft.place }),
    ...(facts.shown === null ? {} : { shown: [...facts.shown] }),
    ...(draft.firstLetter ? {} : { firstLetter: false }),
    ...(draft.asksTerms ? { asksTerms: true } : {}),
    ...(draft.firstWords.trim() === '' ? {} : { firstWords: draft.firstWords.trim() }),
    ...(draft.staffNote.trim() === '' ? {} : { staffNote: draft.staffNote.trim() }),
    ...(draft.contacts.length === 0
      ? {}
      : {
          contacts: draft.contacts.map(({ name, email, letters }) => ({
            ...{ name: name.trim(), email: email.trim(), letters: [...letters] },
          })),
        }),
    ...(draft.files.length === 0 ? {} : { files: draft.files.map(({ id, goesWith }) => ({ id, goesWith })) }),
    pays: paying.by,
    ...givenCard(draft, paying),
    card: draft.card,
    bank: draft.bank,
  };
}

/** The other plans as they are sent: lines of the first subscription, and those that begin beside it. */
function sentOthers({ also, starts }: EnrolDraft, { others }: EnrolFacts) {
  const sent = (isInside: boolean) =>
    also.flatMap(({ rateId, choice }, i) => {
      const { plan, rate, variantId = '', inside = false } = others[i] ?? {};
      if (inside !== isInside) return [];
      return [sentChoice({ rateId, starts, lastDay: '', choice }, { plan, rate, variantId })];
    });
  const lines = sent(true).map(({ starts: _starts, codes: _codes, ...line }) => line);
  const apart = sent(false);
  return {
    ...(lines.length === 0 ? {} : { beside: lines }),
    ...(apart.length === 0 ? {} : { also: apart }),
  };
}

/** What is chosen of a plan, as it is sent: of one customer or of several at once. */
export function sentChoice(
  draft: Pick<EnrolDraft, 'rateId' | 'starts' | 'lastDay' | 'choice'>,
  { plan, rate, variantId }: Pick<EnrolFacts, 'plan' | 'rate' | 'variantId'>,
) {
  const { rateId, starts, lastDay, choice } = draft;
  const code = choice.code.trim();
  return {
    ...{ rateId, starts },
    ...(code === '' ? {} : { codes: [code] }),
    ...(lastDay === '' ? {} : { lastDay }),
    ...(rate && countsQuantity(rate) ? { quantity: Number(choice.quantity) } : {}),
    ...(rate && takesAmount(rate) && choice.amount.trim() !== '' ? { amount: choice.amount.trim() } : {}),
    ...(variantId === '' ? {} : { variantId }),
    ...(choice.cardId === null ? {} : { rateCardId: choice.cardId || null }),
    ...(plan && rate ? { extras: sentExtras(plan, rate, choice), answers: sentAnswers(plan, choice) } : {}),
  };
}

function ownOf(draft: OwnDraft, rate: RateView): Partial<EnrolmentMessage> {
  const own = sentOwn(draft, String(rate.terms.currency));
  return Object.keys(own).length === 0 ? {} : { own };
}

/** Which card it is paid with, and what one that is given is for; the first card of somebody is for everything. */
function givenCard(
  { cardRole, cardToken, methodId, keptAt }: EnrolDraft,
  { way, ways }: Paying,
): Partial<EnrolmentMessage> {
  // Also where the card on file is taken: what is refused of that one stays said while another is typed.
  const role = {
    ...(ways.includes('file') ? { cardRole } : {}),
    ...(way === 'typed' && keptAt !== '' ? { keptAt } : {}),
  };
  if (way === 'file' && methodId !== '') return { ...role, methodId };
  return way === 'reader' && cardToken !== null ? { ...role, cardToken, read: true } : role;
}

/** The field of the form that a pointer of the server means. */
export function fieldOf(pointer: string): string {
  if (pointer === '/card/number' || pointer === '/cardToken') return 'number';
  if (pointer === '/cardToken/holder') return 'holder';
  if (pointer === '/bank/iban' || pointer === '/bankToken') return 'iban';
  if (pointer === '/bank/holder') return 'bankHolder';
  if (pointer === '/card/expires' || pointer === '/cardToken/expires') return 'expires';
  if (pointer === '/variantId') return 'variant';
  const [, at = '', rest] = /^\/((?:also|beside)\/\d+)(\/.*)$/.exec(pointer) ?? [];
  if (rest !== undefined) return `${at}/${fieldOf(rest)}`;
  if (pointer.startsWith('/answers/')) return `answer:${pointer.slice(9)}`;
  if (pointer.startsWith('/extras/')) return `extra:${pointer.slice(8)}`;
  return pointer.slice(1);
}
