import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { inTheNameOf, type Asker } from '../audit/asker.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { agreedText } from '../customers/agreed.ts';
import type { FoundMethod } from '../customers/findMethod.ts';
import { linksForLetters } from '../customers/link.ts';
import { doneTogether } from '../db/together.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { faultOfAnswer, type Ask } from '../plans/choiceMessages.ts';
import type { Acceptance } from '../reckonings/paying.ts';
import type { Reckoning } from '../reckonings/reckon.ts';
import { takeUpAll } from '../reckonings/takeUp.ts';
import { settingsOf } from '../settings/settings.ts';
import type { joinSchema, SignUpPageValue } from './messages.ts';
import { joinedOn } from './pages.sql.ts';
import { askedOn } from './publicPage.ts';
import { requireOpen } from './quote.ts';
import { SignUpPage } from './SignUpPage.ts';
import { joiningVisits, noteJoined } from './visits.ts';

/** What is rolled back with a rehearsal. */
class Rehearsed extends Error {}

/** Somebody who is about to join, with all that is to be written down of them. */
export interface Joining {
  readonly page: SignUpPage;
  readonly value: SignUpPageValue;
  readonly wanted: z.output<typeof joinSchema>;
  readonly acceptance: Acceptance;
  readonly reckoning: Reckoning;
  readonly policyIds: readonly string[];
  readonly card: FoundMethod | null;
  readonly on: string;
  readonly asker: Asker;
}

/** What was written down of somebody: their subscription and the link to their own page; or what they joined with before. */
export interface WrittenDown {
  readonly before: string | null;
  readonly id: string;
  readonly linkId: string;
}

/** Whoever is written down beside others is written down by this. */
const PAGES = { personId: null, who: 'the sign-up pages', via: 'stranger', address: '', agent: '' } as const;

/**
 * Writes down who joins, together with whoever does at the same moment. Who uses a code does so alone: its last use may be
 * contested, and whoever is too late is to be nobody's trouble.
 */
export function writtenDown(almanac: Almanac, joining: Joining): Promise<WrittenDown> {
  // In nobody's name: each of them brings along who asks.
  const work = (all: readonly Joining[]) =>
    inTheNameOf(PAGES, () => almanac.db.transaction((within) => writeDown(almanac, all, within)));
  if (joining.wanted.choice.codes.length > 0)
    return work([joining]).then(([one]) => one ?? { before: null, id: '', linkId: '' });
  return doneTogether(almanac.db, `joining on ${joining.on}`, joining, { work, most: 50 });
}

/** Plays the writing down through, and keeps nothing of it. */
export async function rehearse(almanac: Almanac, joining: Joining): Promise<void> {
  const played = almanac.db.transaction(async (within) => {
    await writeDown(almanac, [joining], within);
    throw new Rehearsed();
  });
  await played.catch((error: unknown) => {
    if (!(error instanceof Rehearsed)) throw error;
  });
}

/** Writes down who joined, for what and by which words, and takes their places: all of them, or none. */
async function writeDown(
  almanac: Almanac,
  all: readonly Joining[],
  within: Transaction,
): Promise<WrittenDown[]> {
  const before = await joiningVisits(
    almanac,
    all.map(({ page, wanted, on }) => ({ pageId: page.id, visit: wanted.visit, on })),
    within,
  );
  // Sent twice at once it is the same joining: the first of the two.
  const fresh = all.filter(
    ({ wanted }, i) =>
      !before.has(wanted.visit) && all.findIndex((one) => one.wanted.visit === wanted.visit) === i,
  );
  const setup = await settingsOf(almanac, 'customers', within);
  const { name: business } = await theBusiness(within);
  const notes = await notesOfNamesakes(
    almanac,
    fresh.map(({ wanted }) => wanted.customer.email),
    within,
  );
  const enrolled = await takeUpAll(
    almanac,
    fresh.map(({ page, value, wanted, acceptance, reckoning, policyIds, card, on, asker }, i) => ({
      reckoning: {
        ...reckoning,
        answers: [...reckoning.answers, ...answersTo(value.questions, wanted.questions)],
      },
      ...{ reckoningId: null, wanted: { ...acceptance, staffNote: notes[i] ?? '' }, card, on, asker },
      channel: 'customer',
      bySelf: {
        page: { id: page.id, version: page.version },
        policyIds,
        agreedText: agreedText(business, card?.kind ?? 'card', wanted.language),
        asks: askedOn(value, setup),
      },
    })),
    within,
  );
  await noteJoined(
    almanac,
    fresh.map(({ wanted }, i) => ({ visit: wanted.visit, subscriptionId: enrolled[i]?.id ?? '' })),
    within,
  );
  const limited = new Set(fresh.filter(({ value }) => value.places !== null).map(({ page }) => page.id));
  for (const pageId of [...limited].toSorted()) await takePlaces(almanac, pageId, within);
  const links = await linksForLetters(enrolled, all[0]?.on ?? '', within);
  return all.map(({ wanted }) => {
    const earlier = before.get(wanted.visit);
    if (earlier !== undefined) return { before: earlier, id: '', linkId: '' };
    const at = fresh.findIndex((one) => one.wanted.visit === wanted.visit);
    return { before: null, id: enrolled[at]?.id ?? '', linkId: links[at] ?? '' };
  });
}

/** What staff are to know where a customer has the same address already: whether they are one, only a person can say. */
async function notesOfNamesakes(
  { db }: Almanac,
  emails: readonly string[],
  within: Transaction,
): Promise<string[]> {
  const addresses = emails.map((email) => email.trim().toLowerCase());
  const known = await db.rows<{ name: string; email: string }>(
    `select distinct on (lower(email)) name, lower(email) as email from customers
     where lower(email) = any($addresses::text[]) and erased_on is null order by lower(email), id`,
    { addresses },
    within,
  );
  return addresses.map((address, i) => {
    const other = known.find(({ email }) => email === address)?.name;
    const beside = addresses.indexOf(address) < i ? 'Somebody who joined at the same moment' : undefined;
    const name = other ?? beside;
    return name === undefined
      ? ''
      : `${name} has the same e-mail address. If this is the same person, put the two together on the customer’s page.`;
  });
}

/** Takes places of a page, as the last of what is done: whoever takes others meanwhile waits. */
async function takePlaces(almanac: Almanac, pageId: string, within: Transaction): Promise<void> {
  const page = await SignUpPage.findByPk(pageId, {
    transaction: within,
    // What refers to it, as what was just written does, goes on beside this.
    lock: within.LOCK.NO_KEY_UPDATE,
    rejectOnEmpty: true,
  });
  if (page.places !== null && (await joinedOn(almanac, pageId, within)) > page.places) requireOpen('full');
}

/** What was answered to what a page asks; an answer that is missing or not good is refused beside it. */
function answersTo(asks: readonly Ask[], given: Readonly<Record<string, string>>): InvoiceField[] {
  return asks.flatMap((ask) => {
    const answer = given[ask.label] ?? '';
    const fault = faultOfAnswer(ask, answer);
    if (fault !== null) throw new RefusedCommand(422, fault, `/questions/${ask.label}`);
    return answer === '' ? [] : [{ label: ask.label, value: answer }];
  });
}
