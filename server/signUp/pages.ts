import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { readPage, type ListQuery, type Page } from '../http/list.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { outsideOfLoop } from '../parsing/outsideOfLoop.ts';
import { optionsOf } from '../plans/plans.ts';
import { requireShown } from '../plans/references.ts';
import { differenceOf } from '../settings/settings.ts';
import { triedOn } from './cardTries.ts';
import { closedOn, sayClosed } from './closed.ts';
import type { PageTexts, SignUpPageForStaff, SignUpPageRow, SignUpPageValue } from './messages.ts';
import { joinedOn, NUMBERED_DAYS, numbersOf, pageList, type ListedPage } from './pages.sql.ts';
import { SignUpPage } from './SignUpPage.ts';
import { saleOf, type SoldPlan } from './sale.ts';

const sinceOf = (today: string) => formatDay(toDay(today) - NUMBERED_DAYS);

/** One page of the sign-up pages; `state` is 'on', 'closed' or 'archived'. */
export async function listSignUpPages(almanac: Almanac, query: ListQuery): Promise<Page<SignUpPageRow>> {
  const today = await businessDateOf(almanac);
  const list = pageList(query.search, query.state, today, sinceOf(today));
  const { rows, ...page } = await readPage<ListedPage>(almanac.db, list, query);
  return {
    ...page,
    rows: rows.map(({ offered, ...row }) => {
      const closed = closedOn({ ...row, offered }, today);
      return { ...row, closed, state: row.archivedOn === null ? sayClosed(closed) : 'archived' };
    }),
  };
}

/** A page as it is edited, or a refusal where there is none. */
export async function readSignUpPage(almanac: Almanac, id: string): Promise<SignUpPageForStaff> {
  const page = await SignUpPage.findByPk(id);
  if (!page) throw new RefusedCommand(404, 'There is no such sign-up page.');
  const today = await businessDateOf(almanac);
  const value = valueOf(page);
  const { plans, faults } = await saleOf(value.rates);
  const joined = await joinedOn(almanac, page.id);
  const at = await almanac.db.rows<{ id: string; kind: string; address: string }>(
    'select id::text, kind, address from uploads where id = any($ids::bigint[])',
    { ids: [...value.pictures, ...value.documents.map(({ upload }) => upload)] },
  );
  const addressOf = (upload: string, folder: string) => {
    const found = at.find((one) => one.id === upload);
    return found ? `/${folder}/${found.address}` : '';
  };
  return {
    ...{ id: page.id, version: page.version, changedBy: page.changedBy, value, isOn: page.isOn },
    closed: closedOn(
      { ...opennessOf(page), joined, offered: plans.flatMap(({ rates }) => rates).length },
      today,
    ),
    ...{ joined, archivedOn: page.archivedOn },
    picturesAt: value.pictures.map((upload) => addressOf(upload, 'pictures')),
    documentsAt: value.documents.map(({ upload }) => addressOf(upload, 'documents')),
    numbers: await numbersOf(almanac, page.id, sinceOf(today)),
    address: `${almanac.config.ALMANAC_URL}/join/${page.key}`,
    faults: [...faults, ...withoutWay(value, plans)],
    tried: await triedOn(almanac, page.id),
  };
}

/** What of a page says whether one can join on it. */
export const opennessOf = ({ isOn, places, value }: SignUpPage) => ({
  ...{ isOn, places, until: value.until },
});

/** All that a page was made with. */
export const valueOf = ({ key, places, value }: SignUpPage): SignUpPageValue => ({ ...value, key, places });

/** Makes a page; it is off until somebody turns it on. */
export function makeSignUpPage(almanac: Almanac, value: SignUpPageValue): Promise<{ id: string }> {
  return almanac.db.transaction(async (within) => {
    const good = await madeGood(almanac, { value, id: null, joined: 0, under: '' }, within);
    const { key, places, ...kept } = good;
    const page = await SignUpPage.create(
      {
        ...{ key, places, value: kept, changedBy: askerNow().who },
        madeOn: await businessDateOf(almanac, within),
      },
      { transaction: within },
    );
    await recordDone(almanac, { did: 'made a sign-up page', subject: titleOf(good), after: good }, within);
    return { id: page.id };
  });
}

/**
 * Changes a page. Whoever is filling it in meanwhile is charged what they were shown, or is asked again.
 * @throws {@link ConflictingEdit} where somebody has changed it since it was read
 */
export async function changeSignUpPage(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: SignUpPageValue },
): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const page = await lockedPage(id, within);
    const before = valueOf(page);
    if (page.version !== edit.version)
      throw new ConflictingEdit({ value: before, version: page.version, changedBy: page.changedBy });
    const joined = await joinedOn(almanac, id, within);
    const good = await madeGood(almanac, { value: edit.value, id, joined, under: '/value' }, within);
    const { key, places, ...kept } = good;
    await page.update(
      { key, places, value: kept, version: page.version + 1, changedBy: askerNow().who },
      { transaction: within },
    );
    const done = { did: 'changed a sign-up page', subject: titleOf(good), ...differenceOf(before, good) };
    await recordDone(almanac, done, within);
  });
}

/** Opens a page to customers, or closes it. Those who joined stay. */
export async function switchSignUpPage(almanac: Almanac, id: string, isOn: boolean): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const page = await lockedPage(id, within);
    if (isOn && page.archivedOn !== null)
      throw new RefusedCommand(409, 'This page is archived. Restore it first.');
    await page.update({ isOn }, { transaction: within });
    const did = isOn ? 'turned a sign-up page on' : 'turned a sign-up page off';
    await recordDone(almanac, { did, subject: titleOf(valueOf(page)) }, within);
  });
}

/** Puts a page away, or back among the others; nothing that was agreed to on it is deleted. */
export async function archiveSignUpPage(almanac: Almanac, id: string, archived: boolean): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const page = await lockedPage(id, within);
    const archivedOn = archived ? await businessDateOf(almanac, within) : null;
    await page.update({ archivedOn, isOn: false }, { transaction: within });
    const did = archived ? 'archived a sign-up page' : 'restored a sign-up page';
    await recordDone(almanac, { did, subject: titleOf(valueOf(page)) }, within);
  });
}

/** The rates of a page that are paid in no way that the page takes. */
function withoutWay({ methods }: SignUpPageValue, plans: readonly SoldPlan[]): string[] {
  return plans.flatMap(({ plan, rates }) =>
    rates
      .filter((rate) => !optionsOf(rate).methods.some((way) => methods.includes(way)))
      .map(({ name }) => `${plan.name}, ${name} is paid in none of the ways that this page takes.`),
  );
}

async function lockedPage(id: string, within: Transaction): Promise<SignUpPage> {
  const page = await SignUpPage.findByPk(id, { transaction: within, lock: within.LOCK.UPDATE });
  if (!page) throw new RefusedCommand(404, 'There is no such sign-up page.');
  return page;
}

const titleOf = ({ texts, language, key }: SignUpPageValue) => texts[language]?.title ?? key;

/** Refuses what a page cannot be, beside its field; its formatted texts come back safe. */
async function madeGood(
  almanac: Almanac,
  of: {
    readonly value: SignUpPageValue;
    readonly id: string | null;
    readonly joined: number;
    readonly under: string;
  },
  within: Transaction,
): Promise<SignUpPageValue> {
  const { value, id, joined, under } = of;
  const refuse = (says: string, pointer: string) => {
    throw new RefusedCommand(422, says, `${under}${pointer}`);
  };
  if (!value.texts[value.language]) refuse('Write the page in its first language too.', '/language');
  const taken = await almanac.db.row(
    'select 1 from sign_up_pages where key = $key and id is distinct from $id',
    { key: value.key, id },
    within,
  );
  if (taken) refuse('Another page has this address already.', '/key');
  if (value.places !== null && value.places < joined)
    refuse(`${joined} have joined already: there are at least so many places.`, '/places');
  const { plans } = await saleOf(value.rates, within);
  const known = plans.flatMap(({ rates }) => rates.map((rate) => rate.id));
  const lacking = value.rates.findIndex((rate) => !known.includes(rate));
  if (lacking >= 0 && id === null)
    refuse('This rate is not sold any more. Choose another.', `/rates/${lacking}`);
  if (!value.rates.includes(value.firstRate)) refuse('Offer one of the rates first.', '/firstRate');
  if (new Set(value.rates).size !== value.rates.length) refuse('A rate stands here twice.', '/rates');
  for (const [i, picture] of value.pictures.entries())
    await requireShown(almanac, { picture, documents: [] }, `${under}/pictures/${i}`, within);
  await requireShown(almanac, { picture: null, documents: value.documents }, under, within);
  const policies = await almanac.db.rows<{ kind: string }>('select distinct kind from policies', {}, within);
  const unwritten = value.policies.find((kind) => !policies.some((one) => one.kind === kind));
  if (unwritten)
    refuse(`There is no ${unwritten} text to agree to: write it in Setup, Policies.`, '/policies');
  return { ...value, texts: await safeTexts(value.texts) };
}

/** The texts of a page, in every language, with nothing in them that could do harm. */
export async function safeTexts(texts: SignUpPageValue['texts']): Promise<SignUpPageValue['texts']> {
  const safe: Record<string, PageTexts> = {};
  for (const [language, one] of Object.entries(texts)) {
    if (!one) continue;
    const [text, after] = [
      await outsideOfLoop('safeText', one.text),
      await outsideOfLoop('safeText', one.after),
    ];
    safe[language] = { ...one, text, after };
  }
  return safe;
}
