import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { Customer } from './Customer.ts';
import { endLinks } from './endLinks.ts';
import { eraseRecords, erasureFacts, type ErasureFacts } from './erase.sql.ts';
import type { ErasureEffect } from './mergeMessages.ts';

/** What erasing a customer would do, or why it cannot be done. Changes nothing. */
export async function effectOfErasing(almanac: Almanac, id: string): Promise<ErasureEffect> {
  const customer = await Customer.findByPk(id);
  if (!customer) throw new RefusedCommand(404, 'There is no such customer.');
  return present(customer, await erasureFacts(almanac, id));
}

/**
 * Erases what is known of a customer who has left: name, addresses, contacts, notes, messages and the text of letters. Invoices
 * and payments stay, with the name and address that they were issued to, as the law of book-keeping asks; so does the audit.
 */
export function eraseCustomer(almanac: Almanac, id: string): Promise<ErasureEffect> {
  return almanac.db.transaction(async (within) => {
    if (!(await Customer.findByPk(id, { transaction: within })))
      throw new RefusedCommand(404, 'There is no such customer.');
    const customer = await lockedCustomer(id, within);
    const effect = present(customer, await erasureFacts(almanac, id, within));
    if (effect.hindrances.length > 0) throw new RefusedCommand(409, effect.hindrances.join(' '));
    await erase(almanac, customer, within);
    return effect;
  });
}

async function erase(almanac: Almanac, customer: Customer, within: Transaction): Promise<void> {
  const { id } = customer;
  const on = await businessDateOf(almanac, within);
  await endLinks(almanac, id, 'what we knew of you was erased', within);
  await eraseRecords(almanac, id, on, within);
  await customer.update(
    {
      ...{ name: `Erased, number ${id}`, email: `erased-${id}@nowhere.invalid`, erasedOn: on },
      ...{
        phone: '',
        organisation: '',
        address: '',
        postcode: '',
        shipping: null,
        fields: [],
        region: '',
        language: '',
        taxNumber: '',
        taxExempt: '',
        groupId: null,
      },
      version: (customer.version ?? 1) + 1,
    },
    { transaction: within },
  );
  await recordDone(almanac, { did: 'erased a customer', subject: `number ${id}` }, within);
}

function present(customer: Customer, facts: ErasureFacts): ErasureEffect {
  const hindrances = [
    ...(customer.erasedOn ? ['It has been done already.'] : []),
    ...(facts.runs > 0
      ? [
          `${facts.runs === 1 ? 'A subscription runs' : `${facts.runs} subscriptions run`}: end ${facts.runs === 1 ? 'it' : 'them'} first.`,
        ]
      : []),
    ...(facts.open > 0 ? ['Something is still owed: collect it, or write it off, first.'] : []),
    ...(facts.underWay > 0 ? ['A charge is under way: wait for its outcome.'] : []),
    ...(facts.credit > 0 ? ['There is credit to pay back first.'] : []),
    ...(facts.waiting > 0 ? ['A letter waits to be sent.'] : []),
  ];
  const { invoices, letters, messages } = facts;
  return { name: customer.name, hindrances, invoices, letters, messages };
}
