import type { Express, Request, Response } from 'express';
import { z } from 'zod';
import { sendProblem } from './problem.ts';
import { personOf, type Role } from './session.ts';

type Method = 'get' | 'post' | 'put' | 'delete';

interface RouteOptions<Query extends z.ZodType, Body extends z.ZodType> {
  /** Who may: 'anyone' is a stranger, too. */
  readonly may: readonly Role[] | 'anyone';
  readonly query?: Query;
  readonly body?: Body;
  readonly answer: (asked: {
    readonly params: Readonly<Record<string, string>>;
    readonly query: z.output<Query>;
    readonly body: z.output<Body>;
    readonly request: Request;
    readonly response: Response;
  }) => Promise<unknown>;
}

export const EVERYONE_SIGNED_IN: readonly Role[] = ['owner', 'biller', 'reader'];
export const WRITERS: readonly Role[] = ['owner', 'biller'];

/** The routes of an app with who may use them; the tests go through this table. */
export type RouteTable = {
  readonly method: Method;
  readonly path: string;
  readonly may: readonly Role[] | 'anyone';
}[];

/** Defines routes: each checks the role, reads its query and body by a schema, and answers JSON or a problem. */
export class Routes {
  readonly table: RouteTable = [];

  constructor(private readonly app: Express) {}

  add<Query extends z.ZodType = z.ZodUnknown, Body extends z.ZodType = z.ZodUnknown>(
    method: Method,
    path: string,
    options: RouteOptions<Query, Body>,
  ): void {
    const { may, answer } = options;
    this.table.push({ method, path, may });
    this.app[method](path, async (request, response) => {
      const person = personOf(response);
      if (may !== 'anyone') {
        if (person === null) return sendProblem(response, 401, 'Sign in first.');
        if (!may.includes(person.role))
          return sendProblem(response, 403, `A ${person.role} may not do this.`);
      }
      const params = request.params as Record<string, string>;
      if ('id' in params && !/^\d{1,18}$/.test(params.id ?? ''))
        return sendProblem(response, 404, 'There is no such thing.');
      if (holdsNul([request.body, request.query, params])) {
        return sendProblem(
          response,
          422,
          'A text holds a character that cannot be stored (NUL). Take it out.',
        );
      }
      const query = (options.query ?? z.unknown()).parse(request.query) as z.output<Query>;
      const body = (options.body ?? z.unknown()).parse(request.body) as z.output<Body>;
      const answered = await answer({ params, query, body, request, response });
      if (response.headersSent) return;
      response.status(method === 'post' ? 201 : 200).json(answered ?? {});
    });
  }
}

/** Whether any text in a message holds the character U+0000, which PostgreSQL stores in no text. */
function holdsNul(message: unknown): boolean {
  return JSON.stringify(message ?? null).includes('\\u0000');
}
