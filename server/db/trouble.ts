import { ConnectionError, DatabaseError, TimeoutError } from 'sequelize';

/** The right to turn days was lost in the middle of the work: another process may have it by now. */
export class LockLost extends Error {
  constructor() {
    super('The right to turn days was lost: the connection that held it has ended.');
    this.name = 'LockLost';
  }
}

/** SQLSTATE classes and codes of PostgreSQL that tell of its own trouble, never of the data (appendix A of its manual). */
const OUR_CLASSES = ['08', '53', '57', '58', 'XX'];
const CONFLICTS = ['40001', '40P01', '55P03'];

/**
 * Whether an error is our own trouble: the database is away or out of breath, or the work is no longer ours. It is never
 * held against a customer: the work is given up as it stands and taken up again later.
 */
export function isOurTrouble(error: unknown): boolean {
  if (error instanceof LockLost || error instanceof ConnectionError || error instanceof TimeoutError)
    return true;
  const state = stateOf(error);
  if (state !== null) return OUR_CLASSES.includes(state.slice(0, 2)) || CONFLICTS.includes(state);
  const { code, message = '' } = (error ?? {}) as { code?: unknown; message?: string };
  return (
    ['ECONNRESET', 'ECONNREFUSED', 'EPIPE', 'ETIMEDOUT'].includes(String(code)) ||
    /^Connection terminated|^Client has encountered a connection error|^ConnectionManager\.getConnection was called after/.test(
      message,
    )
  );
}

/** Whether two transactions stood in each other's way, so that the same work may succeed when it is done again. */
export function isConflict(error: unknown): boolean {
  return CONFLICTS.includes(stateOf(error) ?? '');
}

function stateOf(error: unknown): string | null {
  const of = error instanceof DatabaseError ? error.original : error;
  const code = (of as { code?: unknown } | null | undefined)?.code;
  return typeof code === 'string' && /^[0-9A-Z]{5}$/.test(code) ? code : null;
}
