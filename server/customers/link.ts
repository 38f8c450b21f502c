import { createHmac, timingSafeEqual } from 'node:crypto';
import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { CustomerLink } from './CustomerLink.ts';

/** A link lasts so many days from the letter that carries it. */
export const LINK_DAYS = 30;

/** The link of a case: made with its first letter and good for longer with each that follows. */
export async function linkForCase(
  subject: { caseId: string; customerId: string; subscriptionId: string },
  businessDate: string,
  within: Transaction,
): Promise<CustomerLink> {
  const expiresOn = formatDay(toDay(businessDate) + LINK_DAYS);
  const known = await CustomerLink.findOne({ where: { caseId: subject.caseId }, transaction: within });
  if (known && !known.endedWhy) return known.update({ expiresOn }, { transaction: within });
  // One that was ended stays so; the case goes on with another.
  if (known) await known.update({ caseId: null }, { transaction: within });
  return CustomerLink.create({ ...subject, expiresOn }, { transaction: within });
}

/** A link to the own page of a subscription, for a letter that belongs to no case. */
export function linkForLetter(
  subject: { readonly id: string; readonly customerId: string },
  businessDate: string,
  within: Transaction,
): Promise<CustomerLink> {
  const expiresOn = formatDay(toDay(businessDate) + LINK_DAYS);
  return CustomerLink.create(
    { customerId: subject.customerId, subscriptionId: subject.id, expiresOn },
    { transaction: within },
  );
}

/** Links to the own pages of several subscriptions, in one statement; gives their numbers, in the order given. */
export async function linksForLetters(
  subjects: readonly { readonly id: string; readonly customerId: string }[],
  businessDate: string,
  within: Transaction,
): Promise<string[]> {
  const expiresOn = formatDay(toDay(businessDate) + LINK_DAYS);
  const rows = subjects.map(({ id, customerId }) => ({ customerId, subscriptionId: id, expiresOn }));
  const links = await CustomerLink.bulkCreate(rows, { transaction: within, returning: true });
  return links.map(({ id }) => id);
}

/**
 * The token of a link: its number and a signature of 256 bits over number and purpose, which nobody can guess
 * without the secret. `own` acts as the customer; `view` shows the same page to staff and can do nothing.
 */
export function linkToken(almanac: Pick<Almanac, 'config'>, linkId: string, purpose: 'own' | 'view'): string {
  return `${linkId}.${signature(almanac, linkId, purpose)}`;
}

/** The number of the link that a token was made for, or null where the token is not ours. */
export function linkOfToken(
  almanac: Pick<Almanac, 'config'>,
  token: string,
): { linkId: string; purpose: 'own' | 'view' } | null {
  const [linkId = '', signed = ''] = token.split('.');
  if (!/^\d{1,18}$/.test(linkId)) return null;
  for (const purpose of ['own', 'view'] as const) {
    const expected = Buffer.from(signature(almanac, linkId, purpose));
    const given = Buffer.from(signed);
    if (expected.length === given.length && timingSafeEqual(expected, given)) return { linkId, purpose };
  }
  return null;
}

function signature(almanac: Pick<Almanac, 'config'>, linkId: string, purpose: string): string {
  return createHmac('sha256', almanac.config.ALMANAC_SECRET)
    .update(`${purpose}:${linkId}`)
    .digest('base64url');
}
