import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { linkToken } from '../customers/link.ts';
import { raiseNeed } from '../run/needs.ts';
import { addJob } from '../run/queue.ts';
import { LINK_PLACE } from './compose.ts';
import { Letter } from './Letter.ts';
import { minutesOfQuiet, senderOf, type MailRoute } from './mailRoute.ts';

/**
 * Sends one letter, unless it has been sent; in quiet hours it is put off to their end. SMTP cannot promise
 * exactly once: where a crash falls between the mail server's answer and our note of it, the letter goes again
 * under the same Message-ID, by which mail hosts know it for the same.
 */
export async function sendLetter(
  almanac: Almanac,
  route: MailRoute,
  letterId: string,
  now: Date,
): Promise<void> {
  const quiet = await minutesOfQuiet(almanac, now);
  if (quiet > 0) {
    const at = new Date(now.getTime() + quiet * 60_000);
    await addJob(almanac.db, 'send-letter', { letterId }, `letter-${letterId}-after-quiet`, undefined, at);
    return;
  }
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
  route: MailRoute,
  letter: Letter,
  within: Transaction,
): Promise<void> {
  const { instance, domain, ...sender } = await senderOf(almanac);
  const link =
    letter.linkId === null
      ? ''
      : `${almanac.config.ALMANAC_URL}/own/${linkToken(almanac, letter.linkId, 'own')}`;
  try {
    const transporter = await route.transporter();
    await transporter.sendMail({
      messageId: `<letter-${instance}-${letter.id}@${domain}>`,
      ...sender,
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

/** Sends one letter to staff, unless it has been sent. Quiet hours are the customers'. */
export async function sendStaffLetter(almanac: Almanac, route: MailRoute, letterId: string): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const letter = await almanac.db.row<{
      to_address: string;
      subject: string;
      html: string;
      plain: string;
      reply_to: string;
    }>(
      `select to_address, subject, html, plain, reply_to from staff_letters where id = $letterId and state = 'queued' for update`,
      { letterId },
      within,
    );
    if (!letter) return;
    const { instance, domain, from } = await senderOf(almanac);
    const settle = (state: string, fate: string) =>
      // What an invitation's link says is a key: it is not kept once it is on its way.
      almanac.db.rows(
        `update staff_letters set state = $state, fate = $fate, sent_at = now(),
           html = case kind when 'invitation' then '' else html end,
           plain = case kind when 'invitation' then '' else plain end
         where id = $letterId`,
        { letterId, state, fate: fate.slice(0, 300) },
        within,
      );
    try {
      const transporter = await route.transporter();
      await transporter.sendMail({
        messageId: `<staff-${instance}-${letterId}@${domain}>`,
        from,
        to: letter.to_address,
        subject: letter.subject,
        html: letter.html,
        text: letter.plain,
        ...(letter.reply_to === '' ? {} : { replyTo: letter.reply_to }),
      });
    } catch (error) {
      if (!isRefusal(error)) throw error;
      await settle('undeliverable', (error as Error).message);
      return;
    }
    await settle('sent', 'taken by the mail server');
  });
}

/** A refusal for good, by the reply codes of RFC 5321 (5yz), or an address that is none. */
function isRefusal(error: unknown): boolean {
  const { responseCode, code } = error as { responseCode?: number; code?: string };
  return (responseCode !== undefined && responseCode >= 500) || code === 'EENVELOPE';
}
