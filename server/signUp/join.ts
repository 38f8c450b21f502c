import { randomUUID } from 'node:crypto';
import type { z } from 'zod';
import type { FirstDue } from '../../core/listing/firstDues.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { DeclinedCard, findMethod, type FoundMethod } from '../customers/findMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { readTogether } from '../db/together.ts';
import { RefusedCommand } from '../http/problem.ts';
import { sayCard } from '../notices/occasions.ts';
import { policyInForce } from '../policies/policies.ts';
import { cardGivenFor, type Acceptance } from '../reckonings/paying.ts';
import { duesOf, requireAsShown, type Reckoning, type TaxedAs } from '../reckonings/reckon.ts';
import { acceptanceSchema } from '../subscriptions/messages.ts';
import { shipsTo } from '../customers/places.ts';
import { noteDeclined, tryCard, type CardTry } from './cardTries.ts';
import { closedOn } from './closed.ts';
import { chargedOf, collectFirst, presentJoined, standingOf, trialEndOf, type ToldOf } from './joined.ts';
import type { Joined, joinSchema, SignUpPageValue } from './messages.ts';
import { valueOf } from './pages.ts';
import { joinedOn } from './pages.sql.ts';
import { pageAt } from './publicPage.ts';
import { dueBy, PAID_AS, reckonHere, requireOpen } from './quote.ts';
import type { SignUpPage } from './SignUpPage.ts';
import { rehearse, writtenDown } from './writeDown.ts';

type Wanted = z.output<typeof joinSchema>;

/** From where somebody joins. */
interface From {
  /** Of IPv6, the network. */
  readonly address: string;
  /** Staff try the page out: all is played through, and nothing is kept. */
  readonly rehearsal: boolean;
}

/**
 * Joins somebody on a page, by their own word. What they were shown is priced anew and held against it; the card is asked for
 * the amount that is due at once, in a try that is counted; then all is written down, in one transaction that holds the last
 * place and the last use of a code; and what is due is collected. Sent again it is the same joining.
 */
export async function join(almanac: Almanac, key: string, wanted: Wanted, from: From): Promise<Joined> {
  if (wanted.website !== '')
    throw new RefusedCommand(
      422,
      'A field that people do not see was filled. Leave it empty, and join again.',
      '/website',
    );
  const page = await pageAt(key, from.rehearsal);
  const value = valueOf(page);
  const on = await businessDateOf(almanac);
  const { language } = wanted;
  // Whoever has joined is told so, and what was not collected yet is: also where an answer was lost on its way.
  const told = async (id: string, stands: Awaited<ReturnType<typeof standingOf>>): Promise<Joined> => {
    await collectFirst(almanac, id, on);
    const charged = await chargedOf(almanac, id, { on, due: dueBy(stands.dues, on) });
    return presentJoined(almanac, value, { ...stands, on, language, charged });
  };
  const toldAgain = async (id: string): Promise<Joined> => {
    await recordDone(almanac, { did: 'sent once more what had joined already', subject: value.key });
    return told(id, await standingOf(almanac, id, on));
  };
  const earlier = await joinedBefore(almanac, page.id, wanted.visit);
  if (earlier !== null) return toldAgain(earlier);
  await requireStillOpen(almanac, page, value, { on, rehearsal: from.rehearsal });
  requireAccepted(value, wanted);
  const policyIds = await requireAgreed(almanac, value, wanted.agreed, on);

  const { reckoning, dues } = await priced(almanac, page, value, wanted, on);
  if (wanted.pays === 'later' && dueBy(dues, on) > 0n)
    throw new RefusedCommand(422, 'Something is due at once. Choose how to pay.', '/pays');
  const acceptance = acceptanceOf(wanted);
  const card = await methodOf(
    almanac,
    { page, value, wanted, acceptance, dues, on, reckoning },
    from.address,
  );

  const { currency } = reckoning.terms;
  const stands = { currency, dues, trialEnds: trialEndOf(reckoning.terms) };
  const asker = askerNow();
  const joining = { page, value, wanted, acceptance, reckoning, policyIds, card, on, asker };
  if (from.rehearsal) {
    await rehearse(almanac, joining);
    return rehearsed(almanac, value, { ...stands, on, language, linkId: null, charged: null }, card);
  }
  const { before, id, linkId } = await writtenDown(almanac, joining);
  if (before !== null) return toldAgain(before);
  const joined = await told(id, { ...stands, linkId });
  if (joined.charged?.outcome === 'declined')
    await noteDeclined(almanac, cardTryOf(page, value, from.address));
  return joined;
}

/** The subscription that a visit has joined with already; null: none. */
async function joinedBefore({ db }: Almanac, pageId: string, visit: string): Promise<string | null> {
  const found = await db.row<{ id: string | null }>(
    'select subscription_id::text as id from sign_up_visits where id = $visit and page_id = $pageId',
    { visit, pageId },
  );
  return found?.id ?? null;
}

async function requireStillOpen(
  almanac: Almanac,
  page: SignUpPage,
  value: SignUpPageValue,
  { on, rehearsal }: { readonly on: string; readonly rehearsal: boolean },
): Promise<void> {
  const joined = value.places === null ? 0 : await joinedOn(almanac, page.id);
  const { until, places } = value;
  requireOpen(closedOn({ isOn: rehearsal || page.isOn, until, places, joined, offered: 1 }, on));
}

/** Refuses a way of payment that the page does not take. */
function requireAccepted(value: SignUpPageValue, { pays }: Wanted): void {
  if (pays !== 'later' && !value.methods.includes(pays))
    throw new RefusedCommand(422, 'This is not taken here. Choose another way to pay.', '/pays');
}

/**
 * The policies of a page as they are in force, all of which were agreed to; refused where one was not, or was changed since it
 * was read. Whatever else somebody says that they agreed to counts for nothing.
 */
async function requireAgreed(
  almanac: Almanac,
  { policies }: SignUpPageValue,
  agreed: readonly string[],
  on: string,
): Promise<string[]> {
  const ids: string[] = [];
  for (const kind of policies) {
    const inForce = await policyInForce(almanac, kind, on);
    if (inForce && !agreed.includes(inForce.id))
      throw new RefusedCommand(
        409,
        `Read ${kind === 'terms of service' ? 'the terms of service' : `the ${kind} terms`} and agree to them as they are now.`,
        '/agreed',
      );
    if (inForce) ids.push(inForce.id);
  }
  return ids;
}

/**
 * What was chosen, priced as it is now and held against what was shown. Whoever asks for the very same at the same moment is
 * given the same.
 */
async function priced(
  almanac: Almanac,
  page: SignUpPage,
  value: SignUpPageValue,
  wanted: Wanted,
  on: string,
) {
  const { choice } = wanted;
  const [who, usual] = [taxedAs(wanted), placeOf(wanted)];
  const alike = JSON.stringify([page.id, page.version, choice, who, usual, on]);
  const price = () =>
    almanac.db.transaction(async (within) => {
      const reckoning = await reckonHere(almanac, value, { choice, today: on, who, usual }, within);
      return { reckoning, dues: await duesOf(almanac, reckoning, who, within) };
    });
  const found = await readTogether(almanac.db, alike, price);
  requireAsShown(found.dues, wanted.shown, found.reckoning.terms.currency);
  return found;
}

const taxedAs = ({ customer, pays }: Wanted): TaxedAs => ({
  ...{ country: customer.country || null, region: customer.region, taxExempt: '', paidAs: PAID_AS[pays] },
});

const placeOf = ({ customer }: Wanted) =>
  shipsTo({ ...customer, country: customer.country === '' ? null : customer.country });

/** What somebody gave on a page, as whoever takes up a reckoning gives it. */
function acceptanceOf({ customer, pays, cardToken, bankToken, shown }: Wanted): Acceptance {
  const ways = {
    card: 'card',
    'bank debit': 'bank',
    'online transfer': 'transfer',
    invoice: 'invoice',
    later: 'card',
  } as const;
  return acceptanceSchema.parse({
    // Whoever has the same address already is not known to be the same person; staff are told.
    customer: { ...customer, another: true },
    pays: ways[pays],
    ...(pays === 'card' && cardToken !== undefined ? { cardToken } : {}),
    ...(pays === 'bank debit' && bankToken !== undefined ? { bankToken } : {}),
    shown,
  });
}

const cardTryOf = (page: SignUpPage, value: SignUpPageValue, address: string): CardTry => ({
  page: { id: page.id, title: value.texts[value.language]?.title ?? value.key },
  address,
});

/** The card or the bank account that was given, its bank asked for what is due at once; null where none is. */
async function methodOf(
  almanac: Almanac,
  of: {
    readonly page: SignUpPage;
    readonly value: SignUpPageValue;
    readonly wanted: Wanted;
    readonly acceptance: Acceptance;
    readonly dues: readonly FirstDue[];
    readonly on: string;
    readonly reckoning: Reckoning;
  },
  address: string,
): Promise<FoundMethod | null> {
  const { page, value, wanted, acceptance, dues, on, reckoning } = of;
  const { rate, terms } = reckoning;
  const given = { ...cardGivenFor(rate.id, acceptance), channel: 'customer' as const };
  if (wanted.pays === 'bank debit' && acceptance.bankToken !== undefined)
    return findMethod(almanac, { kind: 'bank account', token: acceptance.bankToken }, '/bankToken', given);
  const { cardToken } = acceptance;
  if (wanted.pays !== 'card' || cardToken === undefined) return null;
  const now = dueBy(dues, on);
  const first = now > 0n ? { amount: now, currency: terms.currency } : undefined;
  return tryCard(almanac, cardTryOf(page, value, address), () =>
    findMethod(almanac, { kind: 'card', token: cardToken }, '/cardToken', { ...given, first }),
  );
}

/** What would have become of it: the gateway answers as it would, and keeps nothing. */
async function rehearsed(
  almanac: Almanac,
  value: SignUpPageValue,
  of: ToldOf,
  card: FoundMethod | null,
): Promise<Joined> {
  const { dues, on, currency } = of;
  const now = dueBy(dues, on);
  const amount = now.toString();
  if (now === 0n) return presentJoined(almanac, value, of);
  if (card === null)
    return presentJoined(almanac, value, { ...of, charged: { amount, method: '', outcome: 'by hand' } });
  const account = await GatewayAccount.findByPk(card.accountId, { rejectOnEmpty: true });
  const { statementText } = await Business.findOne({ rejectOnEmpty: true });
  const outcome = await almanac.gateways.of(account).charge({
    idempotencyKey: `rehearsal:${randomUUID()}`,
    ...{ token: card.token, amount: now, currency, statementText },
    ...{ reference: 'rehearsal', channel: 'customer', businessDate: on, rehearsal: true },
  });
  if (outcome.kind === 'settled' && outcome.charge.state === 'declined')
    throw new DeclinedCard(
      422,
      `The bank refused this card: ${meaningOf(outcome.charge.code).says}. Nothing was kept; take another.`,
      '/cardToken',
    );
  const asks = outcome.kind === 'submitted' && outcome.charge.waitsFor !== undefined;
  const state = outcome.kind === 'settled' ? 'collected' : asks ? 'to confirm' : 'under way';
  return presentJoined(almanac, value, {
    ...of,
    charged: { amount, method: sayCard(card), outcome: state },
  });
}
