import { createTransport, type Transporter } from 'nodemailer';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { linkToken } from '../customers/link.ts';
import { raiseNeed } from '../run/needs.ts';
import { LINK_PLACE } from './compose.ts';
import { Letter } from './Letter.ts';

/** Opens the way to the mail server; letters share its connections. */
export function mailRoute(smtpUrl: string): Transporter {
  return createTransport(smtpUrl, { pool: true, maxConnections: 4 } as never);
}

/**
 * Sends one letter, unless it has been sent. SMTP cannot promise exactly once: where a crash falls between
 * the mail server's answer and our note of it, the letter goes again under the same Message-ID, by which
 * mail hosts know it for the same.
 */
export async function sendLetter(almanac: Almanac, route: Transporter, letterId: string): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const letter = await Letter.findOne({
      where: { id: letterId, state: 'queued' },
      transaction: within,
      lock: within.LOCK.UPDATE,
      skipLocked: true,
    });
    if (letter) return sendQueued(almanac, route, letter, within);
    const held = await Letter.findOne({ where: { id: letterId, state: 'queued' }, transaction: within });
    // A worker has it in hand, or died with it a moment ago: the queue looks again in a few seconds.
    if (held) throw new Error(`Letter ${letterId} is in another worker's hand.`);
  });
}

async function sendQueued(
  almanac: Almanac,
  route: Transporter,
  letter: Letter,
  within: Transaction,
): Promise<void> {
  const business = await Business.findOne({ rejectOnEmpty: true });
  const link =
    letter.linkId === null
      ? ''
      : `${almanac.config.ALMANAC_URL}/own/${linkToken(almanac, letter.linkId, 'own')}`;
  try {
    await route.sendMail({
      messageId: `<letter-${business.instance}-${letter.id}@${business.senderAddress.split('@')[1]}>`,
      from: { name: business.name, address: business.senderAddress },
      to: letter.toAddress,
      subject: letter.subject,
      html: letter.html.replaceAll(LINK_PLACE, link),
      text: letter.plain.replaceAll(LINK_PLACE, link),
    });
  } catch (error) {
    if (!isRefusal(error)) throw error; // The mail server is away: the queue tries again later.
    await letter.update(
      { state: 'undeliverable', fate: (error as Error).message.slice(0, 300) },
      { transaction: within },
    );
    await raiseNeed(almanac, within, {
      onceKey: `undeliverable:${letter.customerId}:${letter.toAddress}`,
      arose: letter.writtenOn,
      kind: 'letter undeliverable',
      says: `A letter to ${letter.toAddress} could not be delivered. Find out the right address.`,
      subscriptionId: letter.subscriptionId,
      customerId: letter.customerId,
    });
    return;
  }
  await letter.update(
    { state: 'sent', fate: 'taken by the mail server', sentAt: new Date() },
    { transaction: within },
  );
}

/** A refusal for good, by the reply codes of RFC 5321 (5yz), or an address that is none. */
function isRefusal(error: unknown): boolean {
  const { responseCode, code } = error as { responseCode?: number; code?: string };
  return (responseCode !== undefined && responseCode >= 500) || code === 'EENVELOPE';
}
