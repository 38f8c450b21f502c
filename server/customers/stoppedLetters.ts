import type { OptionalLetter } from '../../core/letters/events.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import type { StoppedLetters } from './messages.ts';

/** Which of the letters that need not be a customer gets no more. */
export async function readStoppedLetters({ db }: Almanac, id: string): Promise<StoppedLetters> {
  const row = await db.row<StoppedLetters>(
    'select stopped_letters as stopped from customers where id = $id',
    {
      id,
    },
  );
  if (!row) throw new RefusedCommand(404, 'There is no such customer.');
  return row;
}

/** Stops some of them for a customer, and lets all others come again. */
export async function changeStoppedLetters(
  almanac: Almanac,
  id: string,
  stopped: readonly OptionalLetter[],
): Promise<StoppedLetters> {
  await almanac.db.transaction(async (within) => {
    const { name, erasedOn } = await lockedCustomer(id, within);
    if (erasedOn) throw new RefusedCommand(409, 'What was known of this customer has been erased.');
    const before = await readStoppedLetters(almanac, id);
    const after = { stopped: [...new Set(stopped)] };
    await almanac.db.rows(
      'update customers set stopped_letters = $stopped::text[] where id = $id',
      { id, ...after },
      within,
    );
    await recordDone(
      almanac,
      { did: 'changed which letters a customer gets', subject: name, before, after },
      within,
    );
  });
  return readStoppedLetters(almanac, id);
}
