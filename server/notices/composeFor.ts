import type { Almanac } from '../almanac.ts';
import { fieldsIn, formOf, writeOut, type ComposedLetter } from './compose.ts';
import { mannersOf } from './formsFor.ts';
import { lookOf } from './look.ts';
import { ownWordsOf } from './ownWords.ts';
import type { LetterEvent, LetterSays } from './templates.ts';

/**
 * A letter as a customer would get it now: in their language, or the business's where nobody is named yet, in its own words for the
 * rate and its look. Nothing is kept, and nobody is written to.
 */
export async function composeFor(
  almanac: Almanac,
  event: LetterEvent,
  says: LetterSays,
  of: { readonly customerId?: string | undefined; readonly rateId?: string | undefined },
): Promise<ComposedLetter> {
  const manners = await mannersOf(almanac, of.customerId === undefined ? [] : [of.customerId]);
  const manner = (of.customerId === undefined ? undefined : manners.get(of.customerId)) ?? manners.usual;
  const own = (await ownWordsOf(almanac, event)).of(manner.language, of.rateId);
  return writeOut(formOf(event, manner.language, own), await lookOf(almanac), fieldsIn(says, manner));
}
