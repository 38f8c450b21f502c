import { randomUUID } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { Business } from '../business/Business.ts';
import { layOut } from '../notices/layOut.ts';
import { queueStaffLetter } from './notices.ts';
import type { Person } from './Person.ts';

/** Tells somebody by mail of a change of how they sign in, whatever they chose to be told of: it may not be theirs. */
export async function tellOfSafety(
  almanac: Almanac,
  person: Person,
  what: string,
  writtenOn: string,
  within: Transaction,
): Promise<void> {
  const { name } = await Business.findOne({ transaction: within, rejectOnEmpty: true });
  const { address } = askerNow();
  const says = [
    `Dear ${person.name},`,
    `${what} on ${name} in Keen Almanac${address === '' ? '' : `, from the address ${address}`}.`,
    'If that was not you, tell an owner at once: they can end your sessions and remove you in Setup, People.',
  ];
  await queueStaffLetter(
    almanac,
    {
      onceKey: `safety:${person.id}:${randomUUID()}`,
      ...{ personId: person.id, toAddress: person.email, kind: 'safety', subject: what, writtenOn },
      ...layOut({ business: name, subject: what, paragraphs: says }),
    },
    within,
  );
}
