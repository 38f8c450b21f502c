import type { Request, RequestHandler } from 'express';
import { RateLimiterMemory, RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import type { Database } from '../db/database.ts';
import { RefusedCommand, sendProblem } from './problem.ts';

const MINUTE_S = 60;
const DAY_S = 86_400;

/**
 * So many requests in a time, counted in the database, where every server of the business sees them. While the database
 * is away, each counts for itself.
 */
export class Limits {
  private readonly limiters = new Map<string, RateLimiterPostgres>();

  constructor(private readonly db: Database) {}

  /** Of one address in a minute; people never come near it. */
  perMinute(name: string, most: number): RequestHandler {
    return async (request, response, next) => {
      const left = await this.take(name, most, MINUTE_S, addressOf(request));
      if (left === null) return next();
      response.set('Retry-After', String(Math.ceil(left / 1000)));
      sendProblem(response, 429, 'Too many requests just now. Wait a minute and try again.');
    };
  }

  /** Of one customer or person in a day. Refuses what is more, and says so. */
  async requirePerDay(name: string, most: number, whose: string, says: string): Promise<void> {
    if ((await this.take(name, most, DAY_S, whose)) !== null) throw new RefusedCommand(429, says);
  }

  /** Counts one; gives null where it may be done, or the milliseconds until it may. */
  private async take(name: string, most: number, seconds: number, key: string): Promise<number | null> {
    try {
      await this.limiter(name, most, seconds).consume(key);
      return null;
    } catch (error) {
      if (error instanceof RateLimiterRes) return error.msBeforeNext;
      throw error;
    }
  }

  private limiter(name: string, points: number, duration: number): RateLimiterPostgres {
    const known = this.limiters.get(name);
    if (known) return known;
    const limiter = new RateLimiterPostgres({
      storeClient: this.db.sequelize,
      storeType: 'sequelize',
      tableName: 'rate_limits',
      tableCreated: true,
      clearExpiredByTimeout: false,
      keyPrefix: name,
      points,
      duration,
      insuranceLimiter: new RateLimiterMemory({ keyPrefix: name, points, duration }),
    });
    this.limiters.set(name, limiter);
    return limiter;
  }
}

/** Forgets what is over. */
export async function forgetOldLimits(db: Database): Promise<void> {
  await db.rows('delete from rate_limits where expire < extract(epoch from now()) * 1000');
}

/** The address that a request comes from: of IPv6, where everybody has many, the network. */
export function addressOf(request: Request): string {
  const address = request.ip ?? '';
  if (!address.includes(':') || address.startsWith('::ffff:')) return address;
  return address.split(':').slice(0, 4).join(':');
}
