import { createTransport, type Transporter } from 'nodemailer';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { minuteOf, quietWait } from '../../core/notices/quietHours.ts';
import { placeOf } from '../outside/outside.ts';
import { mailServerUrl } from '../settings/sections.ts';
import { settingsOf } from '../settings/settings.ts';

/** Connections to a mail server that letters share. */
export const CONNECTIONS = 8;

/** There is no mail server to hand letters to: neither in Setup nor in the environment. */
export class NoMailServer extends Error {
  constructor() {
    super('No mail server is set: give one in Setup, Mail, or as SMTP_URL in the environment.');
    this.name = 'NoMailServer';
  }
}

/**
 * The way to the mail server that is set now: that of Setup, or else of the environment. Letters share its
 * connections until it is changed.
 */
export class MailRoute {
  private open: { readonly url: string; readonly transporter: Promise<Transporter> } | null = null;

  constructor(private readonly almanac: Almanac) {}

  async transporter(): Promise<Transporter> {
    const typed = await mailServerUrl(this.almanac);
    const url = typed ?? this.almanac.config.SMTP_URL;
    if (url === undefined) throw new NoMailServer();
    if (this.open?.url === url) return this.open.transporter;
    this.close();
    const opening = { url, transporter: openTransport(url, typed !== null) };
    this.open = opening;
    opening.transporter.catch(() => {
      if (this.open === opening) this.open = null;
    });
    return opening.transporter;
  }

  close(): void {
    this.open?.transporter.then(
      (transporter) => transporter.close(),
      () => undefined,
    );
    this.open = null;
  }
}

/** Opens a way to a mail server; one that somebody typed is called only where it lies outside (see `placeOf`). */
export async function openTransport(url: string, typed: boolean): Promise<Transporter> {
  const limits = { connectionTimeout: 10_000, greetingTimeout: 10_000, socketTimeout: 30_000 };
  const pooled = { pool: true, maxConnections: CONNECTIONS, maxMessages: 1000, ...limits };
  if (!typed) return createTransport({ url, ...pooled } as never);
  const { hostname } = new URL(url.replace(/^smtps?:/, 'http:'));
  const host = await placeOf(hostname);
  const address = new URL(url);
  const transport = {
    ...pooled,
    host,
    port: Number(address.port),
    secure: address.protocol === 'smtps:',
    requireTLS: address.searchParams.get('requireTLS') === 'true',
    ignoreTLS: address.searchParams.get('ignoreTLS') === 'true',
    tls: { servername: hostname },
    ...(address.username
      ? { auth: { user: decodeURIComponent(address.username), pass: decodeURIComponent(address.password) } }
      : {}),
  };
  return createTransport(transport as never);
}

export interface Sender {
  readonly from: { readonly name: string; readonly address: string };
  readonly replyTo?: { readonly name: string; readonly address: string };
  /** The part of a Message-ID after the sign. */
  readonly domain: string;
  readonly instance: string;
}

/** In whose name letters go out, and where answers go to. */
export async function senderOf(almanac: Almanac): Promise<Sender> {
  const row = await Business.findOne({ rejectOnEmpty: true });
  const [business, mail] = await Promise.all([settingsOf(almanac, 'business'), settingsOf(almanac, 'mail')]);
  const reply = business.replyAddress || business.contactAddress;
  return {
    from: { name: mail.senderName || row.name, address: mail.senderAddress },
    ...(reply ? { replyTo: { name: mail.replyName || row.name, address: reply } } : {}),
    domain: mail.senderAddress.split('@')[1] ?? 'localhost',
    instance: row.instance,
  };
}

/**
 * How many minutes letters to customers wait now for the end of the quiet hours. Practice turns days in moments,
 * so that its clock has no hours, and nothing waits.
 */
export async function minutesOfQuiet(almanac: Almanac, now: Date): Promise<number> {
  const { practice, timeZone } = await Business.findOne({ rejectOnEmpty: true });
  const { quietFrom, quietTo } = await settingsOf(almanac, 'mail');
  if (practice || quietFrom === '') return 0;
  const clock = new Intl.DateTimeFormat('en-GB', {
    timeZone,
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  });
  return quietWait(minuteOf(clock.format(now)), minuteOf(quietFrom), minuteOf(quietTo));
}
