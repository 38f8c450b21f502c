import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { Business } from '../business/Business.ts';
import { RefusedCommand } from '../http/problem.ts';
import { NotReachable } from '../outside/outside.ts';
import type { ComposedLetter } from './compose.ts';
import { layOut } from './layOut.ts';
import { MailRoute, NoMailServer, senderOf } from './mailRoute.ts';
import { lookOf } from './look.ts';

/** Sends a letter to try the mail settings, now, and says how the mail server took it. */
export async function sendTestLetter(almanac: Almanac, to: string): Promise<{ says: string }> {
  const { name } = await Business.findOne({ rejectOnEmpty: true });
  const subject = `A test letter from ${name}`;
  const letter = layOut({
    ...{ business: name, subject, look: await lookOf(almanac) },
    paragraphs: [
      'This letter was sent from Setup to try the mail settings.',
      'Letters to customers will look like this one.',
    ],
  });
  return sendTest(almanac, to, { subject, ...letter });
}

/** Sends a letter to an address now, as a test, and says how the mail server took it. */
export async function sendTest(
  almanac: Almanac,
  to: string,
  { subject, html, plain }: ComposedLetter,
): Promise<{ says: string }> {
  const route = new MailRoute(almanac);
  const { from, replyTo } = await senderOf(almanac);
  try {
    const transporter = await route.transporter();
    const sent = (await transporter.sendMail({
      from,
      ...(replyTo ? { replyTo } : {}),
      to,
      subject,
      html,
      text: plain,
    })) as { response?: string };
    await recordDone(almanac, { did: 'sent a test letter', subject: to });
    return { says: `The mail server took it for ${to}: ${sent.response ?? 'no words'}` };
  } catch (error) {
    if (error instanceof NoMailServer || error instanceof NotReachable)
      throw new RefusedCommand(422, error.message, '/value/server');
    const { code, message } = error as Error & { code?: string };
    const why =
      code === 'EAUTH'
        ? 'it does not take this user and password'
        : code === 'ECONNECTION' || code === 'ETIMEDOUT' || code === 'ESOCKET'
          ? `it does not answer (${message})`
          : message;
    throw new RefusedCommand(502, `The mail server did not take the letter: ${why}.`);
  } finally {
    route.close();
  }
}
