import { setTimeout as pause } from 'node:timers/promises';

/** After so many questions in a row that went well, one more is asked side by side again. */
const WIDENS_AFTER = 50;
/** Where a gateway asks for fewer questions and does not say for how long it is to be left alone. */
const USUAL_REST_MS = 1_000;
const LONGEST_REST_MS = 30_000;

/**
 * The questions asked of one gateway account side by side by this process: at most so many, fewer for a while after the
 * gateway has asked for that (429), and none at all for as long as it says.
 */
export class Lanes {
  private width: number;
  private busy = 0;
  private wellInARow = 0;
  private restUntil = 0;
  private readonly waiting: (() => void)[] = [];

  constructor(private readonly most: number) {
    this.width = most;
  }

  /** How many questions are asked side by side at present. */
  get allowed(): number {
    return this.width;
  }

  /** Asks as soon as a lane is free. */
  async run<T>(ask: () => Promise<T>): Promise<T> {
    if (this.busy < this.width) this.busy += 1;
    else await new Promise<void>((free) => this.waiting.push(free));
    try {
      for (let rest = this.restUntil - Date.now(); rest > 0; rest = this.restUntil - Date.now())
        await pause(rest);
      return await ask();
    } finally {
      this.busy -= 1;
      this.handOver();
    }
  }

  /** The gateway asks for fewer questions: half of them from now on, and none before it may be asked again. */
  slowDown(restMs: number | null): void {
    this.width = Math.max(1, Math.floor(this.width / 2));
    this.wellInARow = 0;
    const rest = Math.min(LONGEST_REST_MS, restMs ?? USUAL_REST_MS);
    this.restUntil = Math.max(this.restUntil, Date.now() + rest);
  }

  /** A question went well. */
  wentWell(): void {
    this.wellInARow += 1;
    if (this.width >= this.most || this.wellInARow < WIDENS_AFTER) return;
    this.wellInARow = 0;
    this.width += 1;
    this.handOver();
  }

  /** Gives free places to those who wait: a place that is handed over stays counted. */
  private handOver(): void {
    while (this.busy < this.width) {
      const free = this.waiting.shift();
      if (!free) return;
      this.busy += 1;
      free();
    }
  }
}
