import { mkdirSync, readdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createHash } from 'node:crypto';
import { SMTPServer } from 'smtp-server';
import { simpleParser } from 'mailparser';

/**
 * The mail stand-in: an SMTP server of its own process that keeps every letter as an `.eml` file. Like many
 * mail hosts it keeps a message once: one that comes again under the same Message-ID is taken and not stored.
 * Addresses at `nowhere.example` are refused, to practise letters that cannot be delivered.
 */
const folder = process.env.MAIL_FOLDER;
if (!folder) {
  console.error('The mail stand-in needs MAIL_FOLDER in its environment.');
  process.exit(2);
}
mkdirSync(folder, { recursive: true });
const kept = new Set(readdirSync(folder));

const server = new SMTPServer({
  authOptional: true,
  disabledCommands: ['STARTTLS', 'AUTH'],
  size: 10_000_000,
  onRcptTo(address, _session, done) {
    const refused = address.address.toLowerCase().endsWith('@nowhere.example');
    done(refused ? Object.assign(new Error('There is no such mailbox'), { responseCode: 550 }) : undefined);
  },
  onData(stream, _session, done) {
    const chunks: Buffer[] = [];
    stream.on('data', (chunk: Buffer) => chunks.push(chunk));
    stream.on('end', () => {
      const message = Buffer.concat(chunks);
      simpleParser(message).then(
        ({ messageId }) => {
          const name = `${createHash('sha256')
            .update(messageId ?? message)
            .digest('hex')
            .slice(0, 32)}.eml`;
          if (!kept.has(name)) {
            writeFileSync(join(folder, `${name}.part`), message);
            renameSync(join(folder, `${name}.part`), join(folder, name));
            kept.add(name);
          }
          done();
        },
        (error: Error) => done(error),
      );
    });
  },
});
server.on('error', (error) => {
  // A sender that dies in the middle of a letter resets its connection: that is its end, not ours.
  if (server.server.listening) return console.error(`A sender broke off: ${error.message}`);
  console.error(`The mail stand-in cannot listen: ${error.message}`);
  process.exit(1);
});
server.listen(Number(process.env.MAIL_PORT ?? 0), '127.0.0.1', () => {
  const address = server.server.address();
  console.log(`mail stand-in on port ${typeof address === 'object' ? address?.port : address}`);
});
