import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { noteAltered, takeAltered } from './altered.ts';
import { foreseeAnew } from './foresee.ts';

/** @throws where something is altered outside of a transaction: what is stored ahead would be left as it was */
function required(transaction: Transaction | null | undefined): Transaction {
  if (!transaction) throw new Error('Subscriptions and customers are altered within a transaction.');
  return transaction;
}

/** What of a subscription decides what it comes to. */
const OF_SUBSCRIPTION = ['terms', 'walk', 'taxId', 'worksBy', 'shift', 'state', 'wakeOn'];
/** What of a customer decides which tax is paid. */
const OF_CUSTOMER = ['country', 'region', 'taxExempt'];

/**
 * From now on, whatever transaction makes or alters a subscription stores with it what is to come of it: nobody who
 * writes a command has to think of that. What is written by statements for many at once says so itself (`noteAltered`).
 */
export function followAlterations(almanac: Almanac): void {
  const touches = (fields: readonly string[] | undefined, names: readonly string[]) =>
    fields === undefined || fields.some((field) => names.includes(field));
  Subscription.addHook('afterCreate', (subscription, { transaction }) => {
    noteAltered(required(transaction), (subscription as Subscription).id);
  });
  Subscription.addHook('afterUpdate', (subscription, { transaction, fields }) => {
    if (touches(fields, OF_SUBSCRIPTION))
      noteAltered(required(transaction), (subscription as Subscription).id);
  });
  Customer.addHook('afterUpdate', async (customer, { transaction, fields }) => {
    if (!touches(fields, OF_CUSTOMER)) return;
    const within = required(transaction);
    const theirs = await almanac.db.rows<{ id: string }>(
      'select id::text from subscriptions where customer_id = $id order by id',
      { id: (customer as Customer).id },
      within,
    );
    noteAltered(within, ...theirs.map(({ id }) => id));
  });
  almanac.db.atEnd = async (within) => {
    await foreseeAnew(almanac, takeAltered(within), within);
  };
}
