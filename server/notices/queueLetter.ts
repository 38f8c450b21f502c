import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { addJob } from '../run/queue.ts';
import { settingsOf } from '../settings/settings.ts';
import { compose } from './compose.ts';
import { lookOf } from './look.ts';
import type { LetterEvent, LetterFields } from './templates.ts';

export interface LetterToQueue {
  /** Names what the letter tells of: a second one under the same key is not written. */
  readonly onceKey: string;
  readonly event: LetterEvent;
  /** Why it was written, for the letterbook. */
  readonly reason: string;
  readonly fields: LetterFields;
  readonly to: string;
  readonly customerId: string;
  readonly subscriptionId: string | null;
  readonly caseId?: string | null;
  readonly linkId?: string | null;
  readonly writtenOn: string;
}

/** Whether letters of an event are on (Setup, Recovery). */
export async function isSwitchedOn(
  almanac: Almanac,
  event: LetterEvent,
  within?: Transaction,
): Promise<boolean> {
  const { letters } = await settingsOf(almanac, 'recovery', within);
  // Letters that cannot be switched off, such as of a change of terms, do not stand there.
  return (letters as Partial<Record<LetterEvent, boolean>>)[event] !== false;
}

/**
 * Writes a letter into the letterbook, and its sending into the queue, in the transaction of what it tells of.
 * Gives false where letters of this event are switched off.
 */
export async function queueLetter(
  almanac: Almanac,
  letter: LetterToQueue,
  within: Transaction,
): Promise<boolean> {
  if (!(await isSwitchedOn(almanac, letter.event, within))) return false;
  const { subject, html, plain } = compose(letter.event, letter.fields, await lookOf(almanac, within));
  const written = await almanac.db.row<{ id: string }>(
    `insert into letters (once_key, customer_id, subscription_id, case_id, link_id, event, reason, to_address,
                          subject, html, plain, written_on)
     values ($onceKey, $customerId, $subscriptionId, $caseId, $linkId, $event, $reason, $to,
             $subject, $html, $plain, $writtenOn)
     on conflict (once_key) do nothing
     returning id`,
    {
      onceKey: letter.onceKey,
      customerId: letter.customerId,
      subscriptionId: letter.subscriptionId,
      caseId: letter.caseId ?? null,
      linkId: letter.linkId ?? null,
      event: letter.event,
      reason: letter.reason,
      to: letter.to,
      subject,
      html,
      plain,
      writtenOn: letter.writtenOn,
    },
    within,
  );
  if (written)
    await addJob(almanac.db, 'send-letter', { letterId: written.id }, `letter-${written.id}`, within);
  return true;
}
