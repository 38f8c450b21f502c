import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express';
import { isNestedTooDeeply } from '../parsing/nesting.ts';
import type { Role } from '../staff/messages.ts';
import { RefusedCommand, sendProblem } from './problem.ts';
import { personOf } from './session.ts';

/** A message of staff or a program, and one of anybody else, weighs at most so much. */
const MOST_JSON = '1mb';
const MOST_JSON_OF_STRANGERS = '64kb';

/** Reads messages in JSON: those of strangers are small, and none is nested beyond what anybody writes. */
export function readJson(): RequestHandler {
  const reader = (limit: string) =>
    express.json({
      limit,
      verify: (_request, _response, body) => {
        if (isNestedTooDeeply(body)) throw new RefusedCommand(400, 'This message is nested too deeply.');
      },
    });
  const [staff, strangers] = [reader(MOST_JSON), reader(MOST_JSON_OF_STRANGERS)];
  return (request, response, next) => {
    const known = personOf(response) !== null || request.get('Authorization') !== undefined;
    (known ? staff : strangers)(request, response, next);
  };
}

/** Reads a large body only of those who may send it: everybody else is refused before a byte of it is read. */
export function ofRoles(roles: readonly Role[], ...readers: readonly RequestHandler[]): RequestHandler {
  return (request: Request, response: Response, next: NextFunction) => {
    const person = personOf(response);
    if (person === null || !roles.includes(person.role)) {
      response.set('Connection', 'close');
      if (person === null) return sendProblem(response, 401, 'Sign in first.');
      return sendProblem(response, 403, `A ${person.role} may not do this.`);
    }
    const rest = [...readers];
    const go = (error?: unknown): void => {
      const reader = rest.shift();
      if (error !== undefined || !reader) next(error);
      else void reader(request, response, go);
    };
    go();
  };
}
