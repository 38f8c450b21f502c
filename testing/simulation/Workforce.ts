import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { ChildProcess } from 'node:child_process';
import { build } from 'esbuild';
import { Parts } from '../../command/parts.ts';
import { ROOT } from '../../command/settings.ts';
import type { Almanac } from '../../server/almanac.ts';

interface Hand {
  readonly name: string;
  readonly process: ChildProcess;
}

const WORKER = 'testing/simulation/worker';

/**
 * The workers of a simulated business. They are begun many hundred times, so that they and their threads are built; those
 * that are not needed are held (SIGSTOP) until they are, which a worker must bear as well.
 */
export class Workforce {
  private readonly parts = new Parts();
  private readonly working: Hand[] = [];
  private readonly held: Hand[] = [];
  private hiring: Promise<void> | null = null;

  private constructor(
    private readonly environment: Readonly<Record<string, string>>,
    private readonly almanac: Almanac,
    private readonly folder: string,
  ) {}

  /** Builds the worker that all of them are. */
  static async ready(environment: Readonly<Record<string, string>>, almanac: Almanac): Promise<Workforce> {
    const folder = join('dist', `simulated-${process.pid}`);
    await build({
      entryPoints: [WORKER, 'server/documents/tasks', 'server/parsing/tasks', 'server/beside/reads'].map(
        (program) => join(ROOT, `${program}.ts`),
      ),
      ...{ outbase: ROOT, outdir: join(ROOT, folder) },
      ...{ bundle: true, packages: 'external', platform: 'node', format: 'esm', logLevel: 'error' },
    });
    return new Workforce({ ...environment, ALMANAC_BUNDLE: join(ROOT, folder) }, almanac, folder);
  }

  /** Sees to it that so many are at work. */
  async staff(count: number): Promise<void> {
    while (this.working.length > count) await this.hold(this.working.pop());
    while (this.working.length < count) await this.take();
  }

  /** Kills one of those at work, in the middle of whatever it does; another takes its place. */
  async kill(which: number): Promise<void> {
    const [hand] = this.working.splice(which % this.working.length, 1);
    // All of them may be dying just now: others take their places already.
    if (!hand) return;
    await killed(hand.process);
    await this.take();
    // One more is made ready for the next time.
    if (this.held.length === 0)
      this.hiring ??= this.hire()
        .then((fresh) => this.hold(fresh))
        .finally(() => (this.hiring = null));
  }

  /** @throws where a worker at work has ended by itself: nothing that falls on it may do that */
  requireAlive(): void {
    const at = this.working.findIndex(
      ({ process }) => process.exitCode !== null || process.signalCode !== null,
    );
    if (at === -1) return;
    const [dead] = this.working.splice(at, 1);
    throw new Error(`${dead?.name} ended by itself.`);
  }

  async end(): Promise<void> {
    await this.hiring;
    for (const { process } of this.held) process.kill('SIGCONT');
    await this.parts.stop();
    rmSync(join(ROOT, this.folder), { recursive: true, force: true });
  }

  private async take(): Promise<void> {
    if (this.held.length === 0 && this.hiring) await this.hiring;
    const ready = this.held.pop();
    ready?.process.kill('SIGCONT');
    const hand = ready ?? (await this.hire());
    this.working.push(hand);
  }

  private async hire(): Promise<Hand> {
    const name = `worker-${randomBytes(4).toString('hex')}`;
    const address = new URL(this.environment.DATABASE_URL ?? '');
    address.searchParams.set('application_name', name);
    const environment = { ...this.environment, DATABASE_URL: address.href };
    for (let tries = 1; ; tries += 1) {
      try {
        const process = await this.parts.start(
          name,
          [join(this.folder, `${WORKER}.js`)],
          environment,
          'worker at work',
        );
        return { name, process };
      } catch (error) {
        // It was about to begin when the database was taken from it: whoever keeps it running begins it again.
        if (tries === 5) throw error;
        await pause(200);
      }
    }
  }

  /** Holds a worker that has no transaction open: for as long as it is held it would lock out everybody else. */
  private async hold(hand: Hand | undefined): Promise<void> {
    if (!hand) return;
    const { name, process } = hand;
    for (;;) {
      process.kill('SIGSTOP');
      if (!(await this.isInTransaction(name))) break;
      process.kill('SIGCONT');
      await pause(10);
    }
    this.held.push(hand);
  }

  private async isInTransaction(name: string): Promise<boolean> {
    const open = await this.almanac.db
      .row(
        `select 1 from pg_stat_activity where application_name = $name and state <> 'idle' and datname = current_database()`,
        { name },
      )
      // The database is away for a moment: then nobody knows.
      .catch(() => true);
    return open !== null;
  }
}

async function killed(worker: ChildProcess): Promise<void> {
  if (worker.exitCode !== null || worker.signalCode !== null) return;
  const died = once(worker, 'exit');
  worker.kill('SIGKILL');
  await died;
}
