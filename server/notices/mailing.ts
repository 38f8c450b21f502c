import { setTimeout as pause } from 'node:timers/promises';
import pMap from 'p-map';
import type { Transporter } from 'nodemailer';
import type { Almanac } from '../almanac.ts';
import { attachmentsOf } from '../customers/files.ts';
import { linkToken } from '../customers/link.ts';
import { documentsWith } from '../documents/documentOf.ts';
import { raiseNeed } from '../run/needs.ts';
import { settingsOf } from '../settings/settings.ts';
import { LINK_PLACE, STOP_PLACE } from './compose.ts';
import {
  anyWaiting,
  holdLetters,
  takeLetters,
  turnOf,
  writeFates,
  type Fate,
  type LetterInHand,
  type Post,
} from './letters.sql.ts';
import {
  CONNECTIONS,
  minutesOfQuiet,
  NoMailServer,
  senderOf,
  type MailRoute,
  type Sender,
} from './mailRoute.ts';
import { stopToken } from './stopLetters.ts';
import { writtenOut } from './written.ts';

/** Letters taken at a time. */
const BATCH = 200;
/** Batches on their way at a time. */
const IN_HAND = 2;
/** A mail server that is away is called again after so long, each time twice as long, at most five minutes. */
const FIRST_WAIT_S = 1;
const LONGEST_WAIT_S = 300;
/** A letter that is put off by its reader's host is tried again after minutes, at most an hour, so often. */
const MOST_TRIES = 60;

/**
 * Sends the letters that wait, over shared connections and side by side, and never inside of a transaction. SMTP cannot
 * promise exactly once: where a crash falls between the mail server's answer and our note of it, the letter goes again
 * under the same Message-ID, by which mail hosts know it for the same.
 */
export class Mailing {
  private away = { times: 0, until: 0 };

  constructor(
    private readonly almanac: Almanac,
    private readonly route: MailRoute,
  ) {}

  /**
   * Sends everything that may go now. Gives how many letters it had in hand.
   * @param signal once it is aborted, what is in hand is sent and nothing more is taken
   */
  async round(now: Date = this.almanac.clock(), signal?: AbortSignal): Promise<number> {
    if (Date.now() < this.away.until || !(await anyWaiting(this.almanac))) return 0;
    let count = await this.send('staff_letters', signal);
    // Quiet hours are the customers'.
    if ((await minutesOfQuiet(this.almanac, now)) === 0) count += await this.send('letters', signal);
    return count;
  }

  /** While the fates of some letters are written down, others are on their way. */
  private async send(post: Post, signal?: AbortSignal): Promise<number> {
    const counts = await Promise.all(Array.from({ length: IN_HAND }, () => this.sendBatches(post, signal)));
    return counts.reduce((sum, count) => sum + count, 0);
  }

  private async sendBatches(post: Post, signal?: AbortSignal): Promise<number> {
    const leaseMs = this.almanac.config.LEASE_MS;
    const { mostPerSecond } = await settingsOf(this.almanac, 'mail');
    let count = 0;
    for (;;) {
      if (signal?.aborted || Date.now() < this.away.until) return count;
      const letters = await takeLetters(this.almanac, post, Math.min(BATCH, mostPerSecond ?? BATCH), leaseMs);
      if (letters.length === 0) return count;
      count += letters.length;
      const ids = letters.map(({ id }) => id);
      const hold = setInterval(() => {
        holdLetters(this.almanac, post, ids, leaseMs).catch(() => undefined);
      }, leaseMs / 3);
      try {
        if (mostPerSecond !== null) await pause(await turnOf(this.almanac, letters.length / mostPerSecond));
        await this.sendBatch(post, letters);
      } finally {
        clearInterval(hold);
      }
    }
  }

  private async sendBatch(post: Post, letters: readonly LetterInHand[]): Promise<void> {
    const sender = await senderOf(this.almanac);
    const transporter = await this.route.transporter().catch((error: Error) => error);
    const fates = await pMap(letters, (letter) => this.sendOne(post, letter, sender, transporter), {
      concurrency: CONNECTIONS * 2,
    });
    await this.almanac.db.transaction(async (within) => {
      await writeFates(this.almanac, post, fates, within);
      for (const [i, letter] of letters.entries()) {
        if (post !== 'letters' || fates[i]?.state !== 'undeliverable') continue;
        await raiseNeed(this.almanac, within, {
          onceKey: `undeliverable:${letter.customer_id}:${letter.to_address}`,
          arose: letter.written_on,
          kind: 'letter undeliverable',
          says: `A letter to ${letter.to_address} could not be delivered. Find out the right address.`,
          subscriptionId: letter.subscription_id,
          customerId: letter.customer_id,
        });
      }
    });
  }

  private async sendOne(
    post: Post,
    letter: LetterInHand,
    sender: Sender,
    transporter: Transporter | Error,
  ): Promise<Fate> {
    const { id, link_id, reply_to } = letter;
    const waits = (tried: boolean, waitSeconds: number, fate: string): Fate => ({
      ...{ id, tried, waitSeconds, fate, state: 'queued' },
    });
    if (Date.now() < this.away.until) return waits(false, this.secondsAway(), 'the mail server is away');
    const link =
      link_id === null
        ? ''
        : `${this.almanac.config.ALMANAC_URL}/own/${linkToken(this.almanac, link_id, 'own')}`;
    const { instance, domain, from, replyTo } = sender;
    const stop = `${this.almanac.config.ALMANAC_URL}/stop-letters/${stopToken(this.almanac, id)}`;
    let composed;
    try {
      composed = writtenOut(letter);
    } catch (error) {
      const fate = `it could not be written out: ${(error as Error).message}`;
      return { id, state: 'undeliverable', fate, waitSeconds: 0, tried: true };
    }
    const { subject, html, plain } = composed;
    // Outside of what follows: a database that is away is no mail server that is.
    const files = [
      ...(letter.files ? await attachmentsOf(this.almanac, letter.files) : []),
      ...(await documentsWith(
        this.almanac,
        { invoiceId: letter.invoice_id, creditNoteId: letter.credit_note_id },
        link,
      )),
    ];
    const answers = post === 'letters' ? replyTo : reply_to === '' ? undefined : reply_to;
    try {
      if (transporter instanceof Error) throw transporter;
      await transporter.sendMail({
        messageId: `<${post === 'letters' ? 'letter' : 'staff'}-${instance}-${id}@${domain}>`,
        ...{ from, subject, to: letter.to_address },
        ...(answers ? { replyTo: answers } : {}),
        html: html.replaceAll(LINK_PLACE, link).replaceAll(STOP_PLACE, stop),
        text: plain.replaceAll(LINK_PLACE, link).replaceAll(STOP_PLACE, stop),
        // Mail programs offer it as a button of their own (RFC 2369, RFC 8058).
        ...(plain.includes(STOP_PLACE)
          ? {
              headers: {
                'List-Unsubscribe': `<${stop}>`,
                'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click',
              },
            }
          : {}),
        attachments: files.map(({ name, mediaType, bytes }) => ({
          ...{ filename: name, contentType: mediaType, content: bytes },
        })),
      });
      this.away = { times: 0, until: 0 };
      return { id, state: 'sent', fate: 'taken by the mail server', waitSeconds: 0, tried: true };
    } catch (error) {
      const says = (error as Error).message;
      if (isRefusal(error)) return { id, state: 'undeliverable', fate: says, waitSeconds: 0, tried: true };
      if (isPutOff(error)) {
        if (letter.tries >= MOST_TRIES)
          return { id, state: 'undeliverable', fate: says, waitSeconds: 0, tried: true };
        return waits(true, 60 * Math.min(60, 2 ** letter.tries), says);
      }
      this.noteAway();
      return waits(
        false,
        this.secondsAway(),
        error instanceof NoMailServer ? says : 'the mail server is away',
      );
    }
  }

  /** The mail server is away: nothing more is handed to it for a while, whoever asks. */
  private noteAway(): void {
    if (Date.now() < this.away.until) return;
    const wait = Math.min(LONGEST_WAIT_S, FIRST_WAIT_S * 2 ** this.away.times);
    // Connections that it is closing are no sign that it is still away when it is called again.
    this.route.close();
    this.away = { times: this.away.times + 1, until: Date.now() + wait * 1000 };
  }

  private secondsAway(): number {
    return Math.max(1, Math.ceil((this.away.until - Date.now()) / 1000));
  }
}

interface MailError {
  readonly responseCode?: number;
  readonly code?: string;
  readonly command?: string;
}

/** Whether an answer is about this letter: a server that does not take our password or our name refuses us, not a reader. */
function isOfLetter({ code, command }: MailError): boolean {
  return code !== 'EAUTH' && !['CONN', 'EHLO', 'MAIL FROM'].includes(command ?? '');
}

/** A refusal for good, by the reply codes of RFC 5321 (5yz), or an address that is none. */
function isRefusal(error: unknown): boolean {
  const { responseCode, code } = error as MailError;
  return (
    isOfLetter(error as MailError) && ((responseCode ?? 0) >= 500 || (!responseCode && code === 'EENVELOPE'))
  );
}

/** A letter that the host takes later, by the reply codes of RFC 5321 (4yz); 421 is the server itself going away. */
function isPutOff(error: unknown): boolean {
  const { responseCode = 0 } = error as MailError;
  return isOfLetter(error as MailError) && responseCode >= 400 && responseCode < 500 && responseCode !== 421;
}
