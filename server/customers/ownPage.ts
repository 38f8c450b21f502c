import type { Almanac } from '../almanac.ts';
import { mannersOf } from '../notices/formsFor.ts';
import { saidCard, sayCard } from '../notices/occasions.ts';
import type { LetterManner } from '../../core/letters/customs.ts';
import { sayIn } from '../../core/letters/sayIn.ts';
import type { SayableTerms } from '../../core/words/sayRate.ts';
import { recordDone } from '../audit/audit.ts';
import { pageLookOf } from '../branding/pageLook.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { publicGateways } from '../gateways/publicGateway.ts';
import { pdfOf, readDocument, type DocumentFile } from '../documents/documentOf.ts';
import { RefusedCommand } from '../http/problem.ts';
import { methodsInTurn } from '../payments/methodsInTurn.ts';
import { agreeToTerms, requireTermsAgreed, termsAsked } from '../reckonings/termsOfService.ts';
import { learnConfirmations, pageToConfirm } from '../payments/confirmation.ts';
import { beginTransfer, learnTransfers, payableByTransfer } from '../payments/onlineTransfer.ts';
import { collectDebts, debtsOf, takeNewMethod } from '../recovery/newMethod.ts';
import { listPolicies } from '../policies/policies.ts';
import { settingsOf } from '../settings/settings.ts';
import { alterSubscription, effectOfAlteration } from '../subscriptions/alter.ts';
import type { AlterationEffect, AlterationMessage } from '../subscriptions/alterMessages.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { readSubscription } from '../subscriptions/subscriptions.ts';
import { agreedText } from './agreed.ts';
import { readCorrespondence, takeMessage } from './correspondence.ts';
import { Customer } from './Customer.ts';
import { effectOfWithdrawing, withdrawMandate } from './changeMethods.ts';
import type { MethodKind, WithdrawalEffect } from './methodMessages.ts';
import { listMethods } from './methods.ts';
import { creditStatement } from './creditStatement.ts';
import { choicesOf } from './ownChoices.ts';
import { CustomerLink } from './CustomerLink.ts';
import { linkOfToken, linkToken } from './link.ts';
import type { OwnPage, OwnPaid } from './ownMessages.ts';

interface Opened {
  readonly link: CustomerLink;
  readonly readOnly: boolean;
}

/** Opens a customer's link: ours, and not expired. */
async function open(almanac: Almanac, token: string): Promise<Opened> {
  const found = linkOfToken(almanac, token);
  const link = found && (await CustomerLink.findByPk(found.linkId));
  if (!found || !link)
    throw new RefusedCommand(404, 'This link is not one of ours. Look for the newest letter from us.');
  if (link.endedWhy)
    throw new RefusedCommand(
      410,
      `This link has ended: ${link.endedWhy}. Look for a newer letter from us, or write to us.`,
    );
  if (link.expiresOn < (await businessDateOf(almanac))) {
    throw new RefusedCommand(410, 'This link has expired. Write to us and we send you a new one.');
  }
  return { link, readOnly: found.purpose === 'view' };
}

/** The customer whose link it is; a refusal where it is none of ours or over. */
export async function whoseLink(almanac: Almanac, token: string): Promise<string> {
  return (await open(almanac, token)).link.customerId;
}

/** Keeps that a customer opened their page on a day, by which link: staff see it where they wait for an answer. */
async function noteVisit(almanac: Almanac, linkId: string, today: string): Promise<void> {
  await almanac.db.rows(
    'insert into link_visits (link_id, visited_on) values ($linkId, $today) on conflict do nothing',
    { linkId, today },
  );
}

/**
 * What the customer's own page shows. A link to look at it is good for whoever is signed in, and nobody else.
 * @param signedIn whether staff ask
 */
export async function readOwnPage(almanac: Almanac, token: string, signedIn: boolean): Promise<OwnPage> {
  const { link, readOnly } = await open(almanac, token);
  if (readOnly && !signedIn)
    throw new RefusedCommand(403, 'This link shows a customer’s page to staff: sign in first.');
  const [business, customer, subscription] = await Promise.all([
    Business.findOne({ rejectOnEmpty: true }),
    Customer.findByPk(link.customerId, { rejectOnEmpty: true }),
    readSubscription(almanac, link.subscriptionId),
  ]);
  const today = await businessDateOf(almanac);
  if (!readOnly) await noteVisit(almanac, link.id, today);
  const debts = await debtsOf(almanac, link.customerId, today);
  const facts = await settingsOf(almanac, 'business');
  const chosen = await choicesOf(almanac, link.subscriptionId);
  const manners = await mannersOf(almanac, [link.customerId]);
  const manner = manners.get(link.customerId) ?? manners.usual;
  const { language, locale } = manner;
  return {
    business: business.name,
    agreed: {
      card: agreedText(business.name, 'card', language),
      'bank account': agreedText(business.name, 'bank account', language),
    },
    about: chosen.about,
    mine: chosen.mine,
    look: await pageLookOf(almanac),
    policies: (await listPolicies(almanac))
      .filter(({ inForce }) => inForce)
      .map(({ kind, text }) => ({ kind, text })),
    ...(await gatewaysOf(almanac, link.customerId)),
    writeTo: facts.contactAddress || facts.replyAddress || business.senderAddress,
    customer: customer.name,
    plan: subscription.plan,
    rate: language === 'en' ? subscription.says : await rateIn(almanac, link.subscriptionId, manner),
    state: subscription.state,
    serviceStoppedOn: subscription.serviceStoppedOn,
    currency: subscription.currency,
    card: subscription.card && {
      ...subscription.card,
      says: await cardIn(link, subscription.card.says, manner),
    },
    methods: await ownMethods(almanac, link, manner),
    collects: subscription.collects,
    terms: await termsAsked(almanac, link.subscriptionId, today),
    readOnly,
    thread: subscription.thread,
    businessDate: today,
    // As they write dates and figures themselves, where that is known.
    ...{ locale, language },
    messages: (await readCorrespondence(almanac, link.customerId)).map((one) => ({ ...one, writtenBy: '' })),
    debts,
    transfers: await payableByTransfer(
      almanac,
      debts.map(({ id }) => id),
    ),
    credit: (await creditStatement(almanac, link.customerId))
      .filter(({ credit }) => credit !== '0')
      .map(({ currency, credit }) => ({ currency, credit })),
    coming: subscription.coming.slice(0, 3),
    paid: subscription.invoices
      .filter(({ state }) => state === 'paid')
      .slice(0, 6)
      .map(({ id, number, dueOn, total, lines }) => ({
        ...{ id, number, dueOn, total },
        settled: lines.flatMap(({ settles, amount }) =>
          settles === null ? [] : [{ says: settles, amount }],
        ),
      })),
  };
}

/** What is charged next, as its customer reads it. */
async function cardIn(link: CustomerLink, says: string, manner: LetterManner): Promise<string> {
  const subscription = await Subscription.findByPk(link.subscriptionId, { rejectOnEmpty: true });
  const method = (await methodsInTurn(subscription)).find((one) => sayCard(one) === says);
  return method ? sayIn(saidCard(method), manner) : says;
}

/** What a subscription costs and how often, in another language than English. */
async function rateIn({ db }: Almanac, subscriptionId: string, manner: LetterManner): Promise<string> {
  const row = await db.row<{ terms: SayableTerms }>(
    'select terms from subscriptions where id = $subscriptionId',
    {
      subscriptionId,
    },
  );
  return row ? sayIn({ rate: row.terms }, manner) : '';
}

/** An invoice of the link's customer as PDF. A link to look at the page is good for whoever is signed in, and nobody else. */
export async function ownInvoice(
  almanac: Almanac,
  token: string,
  invoiceId: string,
  signedIn: boolean,
): Promise<DocumentFile> {
  const { link, readOnly } = await open(almanac, token);
  if (readOnly && !signedIn)
    throw new RefusedCommand(403, 'This link shows a customer’s page to staff: sign in first.');
  return pdfOf(almanac, await readDocument(almanac, 'invoice', invoiceId, link.customerId));
}

/** Where the customer gives a card or a bank account. */
async function gatewaysOf(
  almanac: Almanac,
  customerId: string,
): Promise<Pick<OwnPage, 'gateway' | 'takesCards' | 'bank'>> {
  const { gateway, takesCards, bank } = await publicGateways(almanac, { customerId });
  return { gateway, takesCards, bank };
}

/** What an alteration that the customer asks for would do. */
export async function effectFromOwnPage(
  almanac: Almanac,
  token: string,
  asked: AlterationMessage,
): Promise<AlterationEffect> {
  const { link } = await open(almanac, token);
  return effectOfAlteration(almanac, link.subscriptionId, asked, 'customer');
}

/** Alters the subscription on the customer's own word, as far as its plan leaves that to customers. */
export async function alterFromOwnPage(
  almanac: Almanac,
  token: string,
  asked: AlterationMessage,
): Promise<AlterationEffect> {
  const link = await openToAct(almanac, token);
  return alterSubscription(almanac, link.subscriptionId, asked, 'customer');
}

/** Charges the customer's debts to the card in use, on the customer's own word. */
export async function payFromOwnPage(almanac: Almanac, token: string, requestKey: string): Promise<OwnPaid> {
  const link = await openToPay(almanac, token);
  const businessDate = await businessDateOf(almanac);
  const by = { customerId: link.customerId, channel: 'customer' } as const;
  return {
    charged: await collectDebts(almanac, by, `own page ${requestKey}`, businessDate, 'by the customer'),
  };
}

/** Sends the customer to pay an invoice at the gateway's page; they come back to a page that knows nothing of their link. */
export async function transferFromOwnPage(
  almanac: Almanac,
  token: string,
  invoiceId: string,
): Promise<{ url: string }> {
  const { customerId } = await openToPay(almanac, token);
  const today = await businessDateOf(almanac);
  const owed = await debtsOf(almanac, customerId, today);
  if (!owed.some(({ id }) => id === invoiceId))
    throw new RefusedCommand(409, 'There is nothing to pay of this invoice.');
  const returnUrl = `${almanac.config.ALMANAC_URL}/own/back`;
  return beginTransfer(almanac, { customerId, invoiceId, returnUrl }, today);
}

/** Sends the customer to confirm the charge of an invoice at the gateway's page; they come back as from an online transfer. */
export async function confirmFromOwnPage(
  almanac: Almanac,
  token: string,
  invoiceId: string,
): Promise<{ url: string }> {
  const { customerId } = await openToAct(almanac, token);
  const returnUrl = `${almanac.config.ALMANAC_URL}/own/back`;
  return pageToConfirm(almanac, { customerId, invoiceId, returnUrl }, await businessDateOf(almanac));
}

/** What became of what the customer was to pay or to confirm at the gateway's page. */
export async function comeBackToOwnPage(almanac: Almanac, token: string): Promise<OwnPaid> {
  const { customerId } = await openToAct(almanac, token);
  const today = await businessDateOf(almanac);
  return {
    charged: [
      ...(await learnTransfers(almanac, customerId, today)),
      ...(await learnConfirmations(almanac, customerId, today)),
    ],
  };
}

/** Takes another card or bank account from the customer, and charges the debts to it at once. */
export async function changeCardFromOwnPage(
  almanac: Almanac,
  token: string,
  given: { readonly token: string; readonly kind: MethodKind },
): Promise<OwnPaid> {
  const link = await openToPay(almanac, token);
  return takeNewMethod(almanac, { customerId: link.customerId, ...given, channel: 'customer' });
}

/** Takes a few words from the customer: they come to the day sheet, and to staff who want to know. */
export async function writeFromOwnPage(almanac: Almanac, token: string, text: string): Promise<void> {
  const { customerId, subscriptionId } = await openToAct(almanac, token);
  await takeMessage(almanac, { customerId, subscriptionId }, text);
}

/** What withdrawing the authority for a card does, shown before it is done. */
export async function effectOfOwnWithdrawal(
  almanac: Almanac,
  token: string,
  methodId: string,
): Promise<WithdrawalEffect> {
  const { link } = await open(almanac, token);
  return effectOfWithdrawing(almanac, link.customerId, methodId);
}

/** Withdraws the customer's authority to charge a card, on their own word. */
export async function withdrawFromOwnPage(
  almanac: Almanac,
  token: string,
  methodId: string,
): Promise<WithdrawalEffect> {
  const link = await openToAct(almanac, token);
  return withdrawMandate(almanac, link.customerId, methodId, 'customer');
}

async function ownMethods(
  almanac: Almanac,
  link: CustomerLink,
  manner: LetterManner,
): Promise<OwnPage['methods']> {
  const subscription = await Subscription.findByPk(link.subscriptionId, { rejectOnEmpty: true });
  const methods = await listMethods(almanac, link.customerId);
  return (await methodsInTurn(subscription)).flatMap((method) => {
    const { id } = method;
    const found = methods.find((one) => one.id === id);
    const says = sayIn(saidCard(method), manner);
    return found ? [{ id, says, expires: found.expires, role: found.role }] : [];
  });
}

/** The same, where the terms of service that are asked for have been agreed to. */
async function openToPay(almanac: Almanac, token: string): Promise<CustomerLink> {
  const link = await openToAct(almanac, token);
  await requireTermsAgreed(almanac, link.subscriptionId, await businessDateOf(almanac));
  return link;
}

/** Takes a customer's word that they agree to the terms of service. */
export async function agreeFromOwnPage(almanac: Almanac, token: string, version: number): Promise<void> {
  const { subscriptionId } = await openToAct(almanac, token);
  await agreeToTerms(almanac, { subscriptionId, version }, await businessDateOf(almanac));
}

async function openToAct(almanac: Almanac, token: string): Promise<CustomerLink> {
  const { link, readOnly } = await open(almanac, token);
  if (readOnly)
    throw new RefusedCommand(403, 'This is the page as the customer sees it; staff cannot act on it.');
  return link;
}

/** Makes the path under which staff see the page of a subscription as its customer does, and can do nothing. */
export async function pathForStaff(almanac: Almanac, subscriptionId: string): Promise<{ path: string }> {
  const subscription = await Subscription.findByPk(subscriptionId);
  if (!subscription) throw new RefusedCommand(404, 'There is no such subscription.');
  const { customerId } = subscription;
  const expiresOn = await businessDateOf(almanac);
  const link = await almanac.db.transaction(async (within) => {
    const made = await CustomerLink.create(
      { customerId, subscriptionId, expiresOn },
      { transaction: within },
    );
    const { name } = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
    await recordDone(almanac, { did: 'looked at a customer’s own page', subject: name }, within);
    return made;
  });
  return { path: `/own/${linkToken(almanac, link.id, 'view')}` };
}
