import { once } from 'node:events';
import { mkdirSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { Express } from 'express';
import { SMTPServer } from 'smtp-server';
import { simpleParser } from 'mailparser';
import { gatewayApp } from '../../standins/gateway/app.ts';
import { Vault } from '../../standins/gateway/vault.ts';
import { WebhookSender } from '../../standins/gateway/webhooks.ts';

/** The secret key of the account at the simulated gateway. */
export const SECRET = 'secret-key-of-the-simulated-gateway';

/**
 * The gateway stand-in inside of this process, so that thousands of businesses can be played with one. It is killed as a
 * process is: every connection is cut where it stands, and when it is back it knows what its file knows.
 */
export class GatewayHere {
  private server: Server | null = null;
  private app: Express | null = null;
  vault: Vault;
  private round = 0;

  constructor(
    private readonly folder: string,
    private readonly keys: { readonly secret: string; readonly public: string },
    readonly port: number,
  ) {
    mkdirSync(folder, { recursive: true });
    this.vault = this.open();
  }

  private file(): string {
    return join(this.folder, `gateway-${this.round}.jsonl`);
  }

  private open(): Vault {
    const vault = new Vault(this.file(), this.keys);
    this.app = gatewayApp(vault, new WebhookSender(vault));
    return vault;
  }

  async start(): Promise<void> {
    const server = createServer((request, response) => this.app?.(request, response));
    server.listen(this.port, '127.0.0.1');
    await once(server, 'listening');
    this.server = server;
  }

  /** Ends in the middle of whatever it does. */
  kill(): void {
    this.server?.closeAllConnections();
    this.server?.close();
    this.server = null;
  }

  /** Is there again, with what its file knows. */
  async restart(): Promise<void> {
    if (this.server) return;
    this.vault = this.open();
    await this.start();
  }

  /** Begins with a record of its own, its accounts as they are. */
  forget(): void {
    const accounts = [...this.vault.accounts.values()];
    this.round += 1;
    this.vault = this.open();
    for (const account of accounts) this.vault.keepAccount(account);
  }
}

/** A mail host inside of this process: it counts what it is handed, by Message-ID. */
export class MailHere {
  /** How often each message was handed over in whole. */
  readonly taken = new Map<string, number>();
  private server: SMTPServer | null = null;

  constructor(readonly port: number) {}

  async start(): Promise<void> {
    if (this.server) return;
    const server = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS', 'AUTH'],
      onData: (stream, _session, done) => {
        simpleParser(stream).then(
          ({ messageId = '' }) => {
            this.taken.set(messageId, (this.taken.get(messageId) ?? 0) + 1);
            done();
          },
          (error: Error) => done(error),
        );
      },
    });
    server.on('error', () => undefined);
    await new Promise<void>((resolve) => server.listen(this.port, '127.0.0.1', () => resolve()));
    this.server = server;
  }

  async kill(): Promise<void> {
    const { server } = this;
    this.server = null;
    await new Promise<void>((resolve) => {
      if (server) server.close(() => resolve());
      else resolve();
      // Connections that are open are cut, as the end of a process cuts them.
      for (const connection of (server as unknown as { connections?: Set<{ close(): void }> } | null)
        ?.connections ?? [])
        connection.close();
    });
  }
}

export const portOf = (server: Server) => (server.address() as AddressInfo).port;
