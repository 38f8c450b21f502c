import type { DestinationStream } from 'pino';
import { pino } from 'pino';
import { pinoHttp } from 'pino-http';
import type { RequestHandler } from 'express';
import type { Config } from '../config.ts';

/**
 * The log of requests: method, path and status, and of what nobody foresaw its message and stack. No header of a request
 * or an answer stands in it, no query, and nothing that is a key: customers' links, sign-in links, invitations.
 */
export function requestLog({ LOG_LEVEL }: Pick<Config, 'LOG_LEVEL'>, to?: DestinationStream): RequestHandler {
  return pinoHttp({
    logger: pino({ level: LOG_LEVEL }, to as DestinationStream),
    serializers: {
      req: (request: { method: string; url: string }) => ({
        method: request.method,
        url: withoutTokens(request.url),
      }),
      res: (response: { statusCode: number }) => ({ status: response.statusCode }),
      err: errorForLog,
    },
    autoLogging: { ignore: (request) => request.url?.startsWith('/assets/') ?? false },
  });
}

/** Paths whose next part is a key to something. */
const KEYED = /(\/(?:own|session\/link|sign-in|invited|hooks\/gateways|codes)\/)[^/?#]+/gi;

/** An address as the log keeps it: the path, with what is a key in it left out. */
export function withoutTokens(url: string): string {
  const [path = ''] = url.split(/[?#]/);
  return path.replace(KEYED, '$1…').replace(/[A-Za-z0-9_.-]{40,}/g, '…');
}

/** An error as the log keeps it. What a statement was asked with, or the database said of values, is left out. */
export function errorForLog(error: unknown): object {
  if (!(error instanceof Error)) return { message: 'Something was thrown that is no error.' };
  const { name, stack = '' } = error;
  const original = (error as { original?: { code?: unknown } }).original;
  const code = (error as { code?: unknown }).code ?? original?.code;
  const isOfDatabase = original !== undefined || name.startsWith('Sequelize');
  const message = isOfDatabase ? 'the database refused a statement' : error.message;
  const lines = stack.split('\n').filter((line) => /^\s+at /.test(line));
  return { type: name, message, ...(typeof code === 'string' ? { code } : {}), stack: lines.join('\n') };
}
