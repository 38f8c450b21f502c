import pMap from 'p-map';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { groupNamed } from '../customers/groups.ts';
import { replaceMethod } from '../customers/replaceMethod.ts';
import type { FoundCard } from '../customers/findCard.ts';
import { policyInForce } from '../policies/policies.ts';
import { Plan } from '../plans/Plan.ts';
import { optionsOf } from '../plans/plans.ts';
import { Rate } from '../plans/Rate.ts';
import { requiredExtras, extrasOf } from '../../core/offer/extras.ts';
import { offersRate } from '../../core/offer/variant.ts';
import { composeTerms } from '../../core/offer/composeTerms.ts';
import { faultsOfTerms } from '../plans/rateTerms.ts';
import { variantsOf } from '../plans/variants.ts';
import { cardsFor } from '../rateCards/takeCard.ts';
import { enrol } from '../subscriptions/enrol.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { addOffer } from './addOffer.ts';
import { readCustomers, type CustomerRow, type Problem } from './customerFile.ts';
import type { ImportReport } from './report.ts';
import { readPlans, type ImportFile, type ReadPlans } from './readPlans.ts';

export interface ImportOptions {
  readonly dryRun: boolean;
  /** Saves rates that differ as new versions; otherwise they are left as they are. */
  readonly update?: boolean;
  readonly progress?: (done: number, of: number) => void;
}

/** A dry run does all the work and then takes it back, so that it finds what the real import would find. */
class TakeBack extends Error {}

/**
 * Imports plans (JSON) and customers (CSV), all or nothing. Every problem is reported by file and line; with
 * one problem or more nothing is changed. What is already there by its key or reference is left as it is, so
 * that a file imported twice changes nothing.
 */
export async function importFiles(
  almanac: Almanac,
  files: readonly ImportFile[],
  options: ImportOptions,
): Promise<ImportReport> {
  const problems: Problem[] = [];
  const planFiles: ({ readonly file: ImportFile } & ReadPlans)[] = [];
  const rows: { file: string; row: CustomerRow }[] = [];
  for (const file of files) {
    if (file.text.includes('\0')) {
      const line = file.text.slice(0, file.text.indexOf('\0')).split('\n').length;
      problems.push({ file: file.name, line, says: 'There is a character here that no text holds (NUL).' });
      continue;
    }
    if (file.name.endsWith('.json')) {
      const read = await readPlans(file, problems);
      if (read) planFiles.push({ file, ...read });
    } else if (file.name.endsWith('.csv')) {
      const read = readCustomers(file.name, file.text);
      problems.push(...read.problems);
      rows.push(...read.rows.map((row) => ({ file: file.name, row })));
    } else
      problems.push({ file: file.name, line: 1, says: 'Only .json (plans) and .csv (customers) are read.' });
  }
  const cards = await findCards(almanac, rows, problems);

  const report: ImportReport = {
    problems,
    added: { plans: 0, rates: 0, customers: 0, subscriptions: 0, discounts: 0, rateCards: 0, variants: 0 },
    changed: { rates: 0, plans: 0, variants: 0, rateCards: 0, discounts: 0 },
    alreadyThere: { rates: 0, customers: 0, subscriptions: 0 },
  };
  try {
    await almanac.db.transaction(async (within) => {
      const today = await businessDateOf(almanac, within);
      for (const { file, plans, lines } of planFiles)
        await addOffer(almanac, plans, report, options.update ?? false, within, (says, path) =>
          problems.push({ file: file.name, line: lines.at(path), says }),
        );
      let done = 0;
      for (const { file, row } of rows) {
        const tell = (says: string) => problems.push({ file, line: row.line, says });
        await addRow(almanac, row, cards, today, report, tell, within);
        done += 1;
        if (done % 20 === 0 || done === rows.length) options.progress?.(done, rows.length);
      }
      if (options.dryRun || problems.length > 0) throw new TakeBack();
      const subject = files.map(({ name }) => name).join(', ');
      await recordDone(almanac, { did: 'imported files', subject, after: report.added }, within);
    });
  } catch (error) {
    if (!(error instanceof TakeBack)) throw error;
    return { ...report, problems: namedOf(problems) };
  }
  if (report.added.subscriptions >= MANY)
    await almanac.db.sequelize.query('analyze customers, payment_methods, mandates, subscriptions');
  return { ...report, problems: namedOf(problems) };
}

/** After so many new subscriptions the tables are counted anew at once, so that the next day is planned by what they hold. */
const MANY = 500;

/** So many problems are named one by one: nobody mends more at a time. */
const MOST_NAMED = 100;

function namedOf(problems: readonly Problem[]): Problem[] {
  const more = problems.length - MOST_NAMED;
  const last = problems[MOST_NAMED];
  if (more <= 0 || !last) return [...problems];
  const says =
    more === 1 ? 'There is one more problem.' : `There are ${more} more problems, the next in this line.`;
  return [...problems.slice(0, MOST_NAMED), { file: last.file, line: last.line, says }];
}

async function findCards(
  almanac: Almanac,
  rows: readonly { file: string; row: CustomerRow }[],
  problems: Problem[],
): Promise<Map<string, FoundCard>> {
  const found = new Map<string, FoundCard>();
  const withCards = rows.filter(({ row }) => row.card_token !== '');
  if (withCards.length === 0) return found;
  const { account, gateway } = await almanac.gateways.requireForCards();
  await pMap(
    withCards,
    async ({ file, row }) => {
      const card = await gateway.card(row.card_token);
      if (card) found.set(card.token, { ...card, accountId: account.id });
      else problems.push({ file, line: row.line, says: 'card_token: the gateway does not know this card' });
    },
    { concurrency: 8 },
  );
  return found;
}

async function addRow(
  almanac: Almanac,
  row: CustomerRow,
  cards: ReadonlyMap<string, FoundCard>,
  businessDate: string,
  report: ImportReport,
  tell: (says: string) => void,
  within: Transaction,
): Promise<void> {
  const { reference, name, email } = row;
  const known = await Customer.findOne({ where: { reference }, transaction: within });
  if (known) report.alreadyThere.customers += 1;
  else report.added.customers += 1;
  const customer =
    known ??
    (await Customer.create(
      {
        reference,
        name,
        email,
        createdOn: businessDate,
        groupId: await groupNamed(almanac, row.group, within),
      },
      { transaction: within },
    ));
  const card = cards.get(row.card_token);
  if (!known && card) {
    const given = {
      channel: 'import',
      agreedText: 'Brought over with the card from the system before.',
      on: businessDate,
      policyId: (await policyInForce(almanac, 'terms of service', businessDate, within))?.id ?? null,
    } as const;
    await replaceMethod(almanac, customer.id, card, given, within);
  }
  if (row.plan === '') return;
  if (await Subscription.findOne({ where: { reference }, transaction: within })) {
    report.alreadyThere.subscriptions += 1;
    return;
  }
  const plan = await Plan.findOne({ where: { key: row.plan }, transaction: within });
  const rate =
    plan && (await Rate.findOne({ where: { planId: plan.id, key: row.rate }, transaction: within }));
  if (!plan) return tell(`plan: there is no plan "${row.plan}"`);
  if (!rate) return tell(`rate: the plan "${row.plan}" has no rate "${row.rate}"`);
  if (row.starts < businessDate) {
    return tell(
      `starts: lies before the business day ${businessDate}, so that past periods would be charged at once`,
    );
  }
  const variant =
    row.variant === ''
      ? null
      : (await variantsOf(almanac, [plan.id], within)).find(({ key }) => key === row.variant);
  if (variant && !offersRate(variant, rate.id))
    return tell(`variant: "${row.variant}" cannot be had at the rate "${row.rate}"`);
  if (variant === undefined) return tell(`variant: the plan "${row.plan}" has no variant "${row.variant}"`);
  const use = { rateId: rate.id, variantId: variant?.id ?? null, customerId: customer.id, on: businessDate };
  const rateCard = (await cardsFor(almanac, use, within)).find(({ givenBy }) => givenBy === 'group');
  const quantity = row.quantity === '' ? undefined : Number(row.quantity);
  const { methods, recurringStart } = optionsOf(rate);
  const extras = requiredExtras(extrasOf(plan.extras, rate.terms));
  const terms = composeTerms(rate.terms, {
    starts: row.starts,
    quantity,
    recurringStart,
    prices: [variant?.prices[rate.id], rateCard?.prices],
    extras,
  });
  const faults = faultsOfTerms(terms);
  if (faults.length > 0) return tell(faults.map((fault) => `${fault.pointer}: ${fault.detail}`).join('; '));
  const byHand = !methods.includes('card');
  const facts = {
    ...{ variantId: variant?.id ?? null, rateCardId: rateCard?.id ?? null, extras },
    collects: byHand ? ('by hand' as const) : ('automatic' as const),
  };
  await enrol(almanac, { reference, customer, rate, terms, enrolledOn: businessDate, facts }, within);
  report.added.subscriptions += 1;
}
