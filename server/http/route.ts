import type { Express, Request, Response } from 'express';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askerNow, inTheNameOf, type Asker } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { programOf, type Scope } from '../programs/keys.ts';
import type { Role } from '../staff/messages.ts';
import { once } from './idempotency.ts';
import { sendProblem } from './problem.ts';
import { untilGivenUp, whenGivenUp } from './reading.ts';
import { personOf } from './session.ts';

type Method = 'get' | 'post' | 'put' | 'delete';

/** Who may use a route: staff of these roles, anyone at all, or a program whose key has a scope. */
export type May = readonly Role[] | 'anyone' | { readonly scope: Scope };

interface RouteOptions<Query extends z.ZodType, Body extends z.ZodType> {
  readonly may: May;
  readonly query?: Query;
  readonly body?: Body;
  /** What programs get back; part of the published description. */
  readonly gives?: z.ZodType;
  /** What a program's route does, in a sentence. */
  readonly says?: string;
  /** What a write does, in the past tense: the audit says so where the command says nothing more exact. */
  readonly did?: string;
  /** Its answer holds a secret that is shown once: it is not kept, not even to be given again. */
  readonly givesSecret?: true;
  /** Who it is that asks must have been proved a short while ago: it gives power or takes protection away. */
  readonly asksAgain?: boolean;
  /** It only computes: nothing of it is on the audit. */
  readonly changesNothing?: true;
  /** It may read very much: few of its kind go on at once, and others are answered meanwhile. */
  readonly heavy?: true;
  /** After so long it is given up, where that is not what is usual. */
  readonly deadlineMs?: number;
  readonly answer: (asked: {
    readonly params: Readonly<Record<string, string>>;
    readonly query: z.output<Query>;
    readonly body: z.output<Body>;
    readonly request: Request;
    readonly response: Response;
    /** Says when nobody waits for the answer any more, or it takes too long. */
    readonly signal: AbortSignal;
  }) => Promise<unknown>;
}

export const EVERYONE_SIGNED_IN: readonly Role[] = ['owner', 'biller', 'reader'];
export const WRITERS: readonly Role[] = ['owner', 'biller'];
export const OWNER: readonly Role[] = ['owner'];

/** The routes of an app with who may use them; the tests go through this table, and the description is made of it. */
export type RouteTable = {
  readonly method: Method;
  readonly path: string;
  readonly may: May;
  readonly did: string;
  readonly says: string;
  readonly query: z.ZodType | undefined;
  readonly body: z.ZodType | undefined;
  readonly gives: z.ZodType | undefined;
}[];

/**
 * Defines routes: each checks who asks, reads its query and body by a schema, and answers JSON or a problem. Every
 * write leaves an entry in the audit, and one with an `Idempotency-Key` is done once.
 */
export class Routes {
  readonly table: RouteTable = [];

  constructor(
    private readonly app: Express,
    private readonly almanac: Almanac,
  ) {}

  add<Query extends z.ZodType = z.ZodUnknown, Body extends z.ZodType = z.ZodUnknown>(
    method: Method,
    path: string,
    options: RouteOptions<Query, Body>,
  ): void {
    const { may, query, body, gives, did = '', says = '' } = options;
    if (method !== 'get' && did === '') throw new Error(`${method} ${path} does not say what it did.`);
    this.table.push({ method, path, may, did, says, query, body, gives });
    this.app[method](path, async (request, response) => {
      const asker = await this.admit(options, request, response);
      if (asker === null) return;
      const params = request.params as Record<string, string>;
      if ('id' in params && !/^\d{1,18}$/.test(params.id ?? ''))
        return sendProblem(response, 404, 'There is no such thing.');
      if (holdsNul([Buffer.isBuffer(request.body) ? null : request.body, request.query, params])) {
        return sendProblem(
          response,
          422,
          'A text holds a character that cannot be stored (NUL). Take it out.',
        );
      }
      const asked = {
        params,
        query: (query ?? z.unknown()).parse(request.query) as z.output<Query>,
        body: (body ?? z.unknown()).parse(request.body) as z.output<Body>,
        request,
        response,
        signal: whenGivenUp(response, options.deadlineMs ?? this.almanac.config.READ_DEADLINE_MS),
      };
      if (method === 'get' || options.changesNothing) {
        const { signal } = asked;
        const read = () => inTheNameOf(asker, () => options.answer(asked));
        const answered = await untilGivenUp(response, signal, () =>
          options.heavy ? this.almanac.db.readHeavily(signal, read) : read(),
        );
        if (!response.headersSent && !response.destroyed) response.status(200).json(answered ?? {});
        return;
      }
      const work = async () => {
        const answered = (await options.answer(asked)) ?? {};
        await this.noteIfSilent(did, asked);
        return { status: method === 'post' ? 201 : 200, body: answered };
      };
      const kept = method === 'post' && !options.givesSecret;
      const done = kept ? await once(this.almanac, request, asker, work) : await inTheNameOf(asker, work);
      if (!response.headersSent) response.status(done.status).json(done.body);
    });
  }

  /** Who asks, or null after a refusal has been sent. */
  private async admit(
    { may, asksAgain = false, did = '' }: { may: May; asksAgain?: boolean; did?: string },
    request: Request,
    response: Response,
  ): Promise<Omit<Asker, 'entries'> | null> {
    const from = { address: request.ip ?? '', agent: request.get('User-Agent') ?? '' };
    const person = personOf(response);
    if (may === 'anyone') {
      const own = request.path.startsWith('/api/own/');
      if (person) return { personId: person.id, who: person.name, via: 'interface', ...from };
      const stranger = own ? 'a customer, by their link' : 'somebody not signed in';
      return { personId: null, who: stranger, via: own ? 'customer' : 'stranger', ...from };
    }
    if ('scope' in may) {
      const program = await programOf(this.almanac, request);
      if (program === null) {
        response.set('WWW-Authenticate', 'Bearer');
        sendProblem(response, 401, 'Send a key of Setup, API keys: Authorization: Bearer …');
        return null;
      }
      if (!program.scopes.includes(may.scope)) {
        sendProblem(response, 403, `This key has no scope ${may.scope}.`);
        return null;
      }
      return { personId: null, who: `program ${program.name} (key ${program.id})`, via: 'program', ...from };
    }
    if (person === null) {
      sendProblem(response, 401, 'Sign in first.');
      return null;
    }
    const asker = { personId: person.id, who: person.name, via: 'interface', ...from } as const;
    if (!may.includes(person.role)) {
      await this.noteRefused(asker, request, did);
      sendProblem(response, 403, `A ${person.role} may not do this.`);
      return null;
    }
    if (person.wantsFactor && !OPEN_WITHOUT_FACTOR.test(request.path)) {
      sendProblem(response, 403, 'Turn on a second factor first: this business asks for one.', [], {
        code: 'second factor wanted',
      });
      return null;
    }
    if (asksAgain && !person.confirmed) {
      const says = 'Sign in again to do this: it has been a while, and somebody else may sit here.';
      sendProblem(response, 403, says, [], { code: 'sign in again' });
      return null;
    }
    return asker;
  }

  /** What somebody tried who may not is on the audit. */
  private async noteRefused(asker: Omit<Asker, 'entries'>, request: Request, did: string): Promise<void> {
    if (request.method === 'GET') return;
    await inTheNameOf(asker, () =>
      recordDone(this.almanac, { did: 'was refused', subject: did, after: { path: request.route.path } }),
    );
  }

  /** Every write is on the audit: where the command wrote no entry of its own, this one says what was asked. */
  private async noteIfSilent(
    did: string,
    asked: { readonly params: Readonly<Record<string, string>>; readonly body: unknown },
  ): Promise<void> {
    if (askerNow().entries > 0) return;
    const subject = asked.params.id ?? '';
    const body = Buffer.isBuffer(asked.body) ? undefined : asked.body;
    await recordDone(this.almanac, { did, subject, ...(body === undefined ? {} : { after: body }) });
  }
}

/** What somebody may open who has to turn on a second factor first. */
const OPEN_WITHOUT_FACTOR = /^\/api\/(me|session|business|branding)(\/|$)/;

/** Whether any text in a message holds the character U+0000, which PostgreSQL stores in no text. */
function holdsNul(message: unknown): boolean {
  return JSON.stringify(message ?? null).includes('\\u0000');
}
