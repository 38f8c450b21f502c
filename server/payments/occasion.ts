import { Op, type Transaction } from 'sequelize';
import { likeItself } from '../http/list.ts';
import { Attempt } from './Attempt.ts';

/**
 * The key of an occasion at which an invoice is tried, such as a renewal or a rung. The first attempt has it as its
 * idempotency key; later ones, with the next method or in place of one that came to nothing, have `#2`, `#3` behind it.
 */
export const occasionKey = (instance: string, invoiceId: string, occasion: string) =>
  `${instance}:${invoiceId}:${occasion}`;

/** The occasion in words, and its key, of an attempt: 'renewal' of 'instance:31:renewal#2'. */
export function occasionOf({ idempotencyKey }: Pick<Attempt, 'idempotencyKey'>) {
  const key = idempotencyKey.replace(/#\d+$/, '');
  return { key, occasion: key.split(':').slice(2).join(':') };
}

/** The attempts that were made on one occasion, the latest first. */
export function attemptsOn(key: string, invoiceId: string, within: Transaction): Promise<Attempt[]> {
  return Attempt.findAll({
    where: { invoiceId, idempotencyKey: { [Op.or]: [key, { [Op.like]: `${likeItself(key)}#%` }] } },
    order: [['id', 'desc']],
    transaction: within,
  });
}

/** The methods that were declined in some attempts, by their ids. */
export const declinedIn = (attempts: readonly Attempt[]): ReadonlySet<string> =>
  new Set(attempts.filter(({ state }) => state === 'declined').map(({ paymentMethodId }) => paymentMethodId));
