import type { Transaction } from 'sequelize';
import { readOnce } from '../db/readOnce.ts';
import { Business } from './Business.ts';

/** The one business, read once in a transaction. Not for what the transaction changes of it: that is read with a lock. */
export const theBusiness = (within?: Transaction): Promise<Business> =>
  readOnce(within, 'the business', () =>
    Business.findOne({ ...(within ? { transaction: within } : {}), rejectOnEmpty: true }),
  );
