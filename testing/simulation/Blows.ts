import { randomBytes } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { Client } from 'pg';
import type { Almanac } from '../../server/almanac.ts';
import { isOurTrouble } from '../../server/db/trouble.ts';
import type { Blow, Fall } from './scenario.ts';
import { SECRET, type GatewayHere, type MailHere } from './StandIns.ts';
import type { Workforce } from './Workforce.ts';

/** What blows fall on. */
export interface Struck {
  readonly almanac: Almanac;
  readonly environment: Readonly<Record<string, string>>;
  readonly gateway: GatewayHere;
  readonly mail: MailHere;
  readonly workers: Workforce;
  /** Restarts the database in the middle of its work; null where others use it too. */
  readonly restartDatabase: (() => void) | null;
}

/** The blows that fall on a simulated business: everything that a day may have to bear. */
export class Blows {
  /** Whether the gateway goes on misbehaving. */
  private lasts = false;

  constructor(private readonly on: Struck) {}

  /** Lets a blow fall at its moment of the day; done once it is over, but for what lasts until {@link end}. */
  async fall({ afterMs, falls }: Blow): Promise<void> {
    await pause(afterMs);
    await this.strike(falls);
  }

  /** Ends what still lasts. */
  async end(): Promise<void> {
    if (this.lasts) await this.misbehave({});
    this.lasts = false;
  }

  private async strike(falls: Fall): Promise<void> {
    const calm = () => this.misbehave({});
    switch (falls.kind) {
      case 'worker killed':
        return this.on.workers.kill(falls.which);
      case 'connections cut':
        return this.cut();
      case 'database restarted':
        if (this.on.restartDatabase) this.on.restartDatabase();
        else await this.cut();
        return;
      case 'gateway killed':
        this.on.gateway.kill();
        await pause(falls.forMs);
        return this.on.gateway.restart();
      case 'gateway away':
        await this.misbehave({ down: true });
        await pause(falls.forMs);
        return calm();
      case 'mail server killed':
        await this.on.mail.kill();
        await pause(falls.forMs);
        return this.on.mail.start();
      case 'answers dropped':
        this.lasts = true;
        return this.misbehave({ dropAnswers: falls.times });
      case 'refund answers dropped':
        this.lasts = true;
        return this.misbehave({ dropRefunds: falls.times });
      case 'answers': {
        const { status, times, charged, page } = falls;
        this.lasts = true;
        return this.misbehave({ chargesAnswer: { status, times, charged, page } });
      }
      case 'slow':
        await this.misbehave({ slowMs: falls.ms });
        await pause(falls.forMs);
        return calm();
      case 'webhooks twice':
        this.lasts = true;
        return this.misbehave({ repeatWebhooks: true });
      case 'webhook forged':
        return this.forge(falls.how);
    }
  }

  private async misbehave(faults: object): Promise<void> {
    await fetch(`${this.on.environment.GATEWAY_URL}/practice/faults`, {
      method: 'PUT',
      headers: { Authorization: `Bearer ${SECRET}`, 'Content-Type': 'application/json' },
      body: JSON.stringify(faults),
    }).catch(() => undefined); // It may be killed just now: then it forgets its faults as well.
  }

  /** Ends all connections to the database, as its restart does. */
  private async cut(): Promise<void> {
    const client = new Client({ connectionString: this.on.environment.DATABASE_URL });
    // The database may be restarted while this is at it: then all connections are cut as well.
    client.on('error', () => undefined);
    try {
      await client.connect();
      await client.query(
        'select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()',
      );
      await client.end();
    } catch (error) {
      if (!isOurTrouble(error)) throw error;
    }
  }

  /** Tells of a charge that was not made, or not so: nobody may believe it. */
  private async forge(how: Extract<Fall, { kind: 'webhook forged' }>['how']): Promise<void> {
    const row = await this.on.almanac.db
      .row<{ key: string; amount: string }>(
        `select idempotency_key as key, amount::text from attempts order by id desc limit 1`,
      )
      .catch(() => null);
    if (!row) return;
    const data = {
      ...{ id: 'charge-forged', key: row.key, currency: 'GBP', code: '00' },
      amount: how === 'another amount' ? `${row.amount}0` : row.amount,
      state: how === 'declined' ? 'declined' : 'collected',
    };
    const place = how === 'another account' ? '999' : '1';
    await fetch(`${this.on.environment.ALMANAC_URL}/hooks/gateways/${place}`, {
      method: 'POST',
      headers: {
        'Content-Type': 'application/json',
        'webhook-id': `forged-${randomBytes(6).toString('hex')}`,
        'webhook-timestamp': String(Math.floor(Date.now() / 1000)),
        'webhook-signature': how === 'unsigned' ? '' : `v1,${randomBytes(32).toString('base64')}`,
      },
      body: JSON.stringify({ type: `money.${data.state}`, timestamp: new Date().toISOString(), data }),
    }).catch(() => undefined);
  }
}
