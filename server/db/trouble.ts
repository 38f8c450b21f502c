import { ConnectionError, DatabaseError, TimeoutError } from 'sequelize';

/** A batch of a worker is not its own any more: it was silent for too long, and another has taken it. */
export class ClaimLost extends Error {
  constructor() {
    super('A batch was taken over by another worker: this one was silent for too long.');
    this.name = 'ClaimLost';
  }
}

/** SQLSTATE classes and codes of PostgreSQL that tell of its own trouble, never of the data (appendix A of its manual). */
const OUR_CLASSES = ['08', '53', '57', '58', 'XX'];
const SOCKET_FAULTS = ['ECONNRESET', 'ECONNREFUSED', 'EPIPE', 'ETIMEDOUT'];
const CONNECTION_FAULT =
  /^Connection terminated|^Client has encountered a connection error|^ConnectionManager\.getConnection was called after/;
const LOCKS = ['40001', '40P01', '55P03'];
/** A prepared statement that this connection does not have, and one that it has already. */
const LOST_STATEMENTS = ['26000', '42P05'];
const CONFLICTS = [...LOCKS, ...LOST_STATEMENTS];

/**
 * Whether an error is our own trouble: the database is away or out of breath, or the work is no longer ours. It is never
 * held against a customer: the work is given up as it stands and taken up again later.
 */
export function isOurTrouble(error: unknown): boolean {
  if (error instanceof ClaimLost || error instanceof ConnectionError || error instanceof TimeoutError)
    return true;
  const { code, message } = causeOf(error);
  if (SOCKET_FAULTS.includes(code) || CONNECTION_FAULT.test(message)) return true;
  return OUR_CLASSES.includes(code.slice(0, 2)) || CONFLICTS.includes(code);
}

/**
 * Whether the same work may succeed when it is done again: two transactions stood in each other's way, or a statement that
 * was prepared is not on this connection, after which nothing is prepared any more (`driver.ts`).
 */
export function isConflict(error: unknown): boolean {
  return CONFLICTS.includes(causeOf(error).code);
}

/** Whether a connection is not the one on which a statement was prepared. */
export function isLostStatement(error: unknown): boolean {
  return LOST_STATEMENTS.includes(causeOf(error).code);
}

/** What the driver said: the mapper wraps it. */
function causeOf(error: unknown): { code: string; message: string } {
  const of = error instanceof DatabaseError ? error.original : error;
  const { code, message } = (of ?? {}) as { code?: unknown; message?: unknown };
  return { code: String(code ?? ''), message: String(message ?? '') };
}
