import type { ErrorRequestHandler, Response } from 'express';
import 'pino-http';
import { z } from 'zod';
import { TooMuch } from '../parsing/tooMuch.ts';
import { pointerTo, RefusedTerms, type Fault } from '../../core/terms/fault.ts';

/** A command that cannot be done: the status says why in HTTP's words, the sentence in the reader's. */
export class RefusedCommand extends Error {
  readonly faults: readonly Fault[];

  constructor(
    readonly status: number,
    detail: string,
    pointer?: string,
  ) {
    super(detail);
    this.name = 'RefusedCommand';
    this.faults = pointer === undefined ? [] : [{ pointer, detail }];
  }
}

/** Several fields of a message are not as they should be: what, at each of them. */
export class RefusedFields extends RefusedCommand {
  override readonly faults: readonly Fault[];

  constructor(detail: string, faults: readonly Fault[]) {
    super(422, detail);
    this.faults = faults;
  }
}

/**
 * Somebody else has changed the same thing since it was read: nothing is written over blindly. The problem carries
 * how it stands now, so that whoever edits can hold both against each other.
 */
export class ConflictingEdit extends RefusedCommand {
  constructor(
    readonly theirs: { readonly value: unknown; readonly version: number; readonly changedBy: string },
  ) {
    super(
      409,
      `${theirs.changedBy || 'Somebody'} has changed this since you opened it. Nothing of yours is stored yet; what you typed is still here.`,
    );
    this.name = 'ConflictingEdit';
  }
}

/** Answers with a problem document of RFC 9457. */
export function sendProblem(
  response: Response,
  status: number,
  detail: string,
  errors: readonly Fault[] = [],
  more: object = {},
): void {
  response
    .status(status)
    .type('application/problem+json')
    .send(
      JSON.stringify({
        type: 'about:blank',
        status,
        detail,
        ...(errors.length > 0 ? { errors } : {}),
        ...more,
      }),
    );
}

/** Turns what was thrown into a problem document; what nobody foresaw is logged and told in one sentence. */
export const problemHandler: ErrorRequestHandler = (error: unknown, request, response, next) => {
  if (response.headersSent) return next(error);
  if (error instanceof ConflictingEdit) {
    return sendProblem(response, 409, error.message, [], { theirs: error.theirs });
  }
  if (error instanceof RefusedCommand)
    return sendProblem(response, error.status, error.message, error.faults);
  if (error instanceof TooMuch) return sendProblem(response, 422, error.message);
  if (error instanceof RefusedTerms) {
    return sendProblem(response, 422, 'These terms cannot be computed.', error.faults);
  }
  if (error instanceof z.ZodError) {
    const faults = error.issues.map((issue) => ({ pointer: pointerTo(issue.path), detail: issue.message }));
    return sendProblem(response, 422, 'Something in this is not as it should be.', faults);
  }
  if (isClientError(error)) return sendProblem(response, error.status, 'The request could not be read.');
  request.log.error({ error }, 'not foreseen');
  sendProblem(response, 500, 'Something went wrong on our side. Nothing of this was stored; try again.');
};

function isClientError(error: unknown): error is { status: number } {
  const status = (error as { status?: unknown } | null)?.status;
  return typeof status === 'number' && status >= 400 && status < 500;
}
