import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { bundled } from '../server/bundled.ts';
import { PlainFailure } from './sayAndExit.ts';
import { ROOT } from './settings.ts';

const TSX = `file://${join(ROOT, 'node_modules', 'tsx', 'dist', 'esm', 'index.mjs')}`;

/** Whatever still runs when this process ends, however it ends, ends with it. */
const running = new Set<ChildProcess>();
process.once('exit', () => {
  for (const child of running) child.kill('SIGKILL');
});

/** The processes that a command has started, so that it can stop every one of them. */
export class Parts {
  private readonly children = new Map<string, ChildProcess>();
  private stopping = false;
  private died: (name: string) => void = () => undefined;

  onDeath(tell: (name: string) => void): void {
    this.died = tell;
  }

  /** The process numbers of the parts that run. */
  processes(): number[] {
    return [...this.children.values()].flatMap(({ pid }) => (pid === undefined ? [] : [pid]));
  }

  isStopping(): boolean {
    return this.stopping;
  }

  /** Starts a program of the checkout and waits until it says that it is ready. */
  start(
    name: string,
    words: readonly string[],
    environment: Record<string, string>,
    ready: string,
  ): Promise<ChildProcess> {
    const [file = '', ...rest] = words;
    const fromSource = file.endsWith('.ts') ? ['--import', TSX, join(ROOT, file)] : [join(ROOT, file)];
    const made = bundled(file);
    const memory = rest.includes('serve') ? ['--max-semi-space-size=8'] : [];
    const program = [...memory, ...(made && existsSync(made) ? ['--enable-source-maps', made] : fromSource)];
    const child = spawn(process.execPath, [...program, ...rest], {
      env: { ...process.env, ...environment },
      stdio: ['ignore', 'pipe', 'pipe'],
      // A group of its own: Ctrl-C in the terminal reaches this command alone, which then stops its parts in order.
      detached: true,
    });
    this.children.set(name, child);
    running.add(child);
    return new Promise((resolve, reject) => {
      let heard = '';
      child.stdout?.on('data', (chunk: Buffer) => {
        heard += chunk.toString();
        if (heard.includes(ready)) resolve(child);
        else if (heard.length > 10_000) heard = heard.slice(-5_000);
      });
      child.stderr?.on('data', (chunk: Buffer) => process.stderr.write(`[${name}] ${chunk.toString()}`));
      child.once('exit', (code, signal) => {
        this.children.delete(name);
        running.delete(child);
        reject(new PlainFailure(`The ${name} did not start (${signal ?? `exit ${code}`}).`));
        if (!this.stopping) this.died(name);
      });
    });
  }

  /** Asks every part to stop, and ends those that have not after five seconds. */
  async stop(): Promise<void> {
    this.stopping = true;
    const children = [...this.children.values()];
    await Promise.all(
      children.map(
        (child) =>
          new Promise<void>((resolve) => {
            const force = setTimeout(() => child.kill('SIGKILL'), 5_000);
            child.once('exit', () => {
              clearTimeout(force);
              resolve();
            });
            child.kill('SIGTERM');
          }),
      ),
    );
  }
}
