import { readFile } from 'node:fs/promises';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { localeOf } from '../../core/typed/manner.ts';
import { settingsOf } from '../settings/settings.ts';
import { addOffer } from './addOffer.ts';
import { readCustomers } from './customerFile.ts';
import { CustomerImport } from './CustomerImport.ts';
import type { ImportFile } from './importFile.ts';
import { Problems } from './problems.ts';
import { readPlans, type ReadPlans } from './readPlans.ts';
import type { ImportCounts, ImportReport } from './report.ts';

export interface ImportOptions {
  readonly dryRun: boolean;
  /** Saves rates that differ as new versions; otherwise they are left as they are. */
  readonly update?: boolean;
  /** Takes every line with a problem, and what is wrong with it. */
  readonly badLines?: (lines: ReadonlyMap<number, string>) => void;
  /** Done as the last part of what is stored, in the same transaction. */
  readonly lastly?: (report: ImportCounts, within: Transaction) => Promise<void>;
  /** Told after each batch how many rows are done, and how much of their file that is, from 0 to 1. */
  readonly progress?: (done: number, share: number) => void;
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
  const problems = new Problems();
  const offers: ({ readonly name: string } & ReadPlans)[] = [];
  for (const file of files) {
    if (file.name.endsWith('.json')) {
      const read = await readPlans({ name: file.name, text: await textOf(file) }, problems.tell);
      if (read) offers.push({ name: file.name, ...read });
    } else if (!file.name.endsWith('.csv'))
      problems.tell({
        file: file.name,
        line: 1,
        says: 'Only .json (plans) and .csv (customers) are read.',
      });
  }
  const report: ImportCounts = {
    added: { plans: 0, rates: 0, customers: 0, subscriptions: 0, discounts: 0, rateCards: 0, variants: 0 },
    changed: { rates: 0, plans: 0, variants: 0, rateCards: 0, discounts: 0 },
    alreadyThere: { rates: 0, customers: 0, subscriptions: 0 },
  };
  try {
    await almanac.db.transaction(async (within) => {
      for (const { name, plans, lines } of offers)
        await addOffer(almanac, plans, report, options.update ?? false, within, (says, path) =>
          problems.tell({ file: name, line: lines.at(path), says }),
        );
      const customers = files.filter(({ name }) => name.endsWith('.csv'));
      await addCustomers(almanac, customers, report, problems, options, within);
      if (options.dryRun || problems.count > 0) throw new TakeBack();
      const subject = files.map(({ name }) => name).join(', ');
      await recordDone(almanac, { did: 'imported files', subject, after: report.added }, within);
      await options.lastly?.(report, within);
    });
  } catch (error) {
    if (!(error instanceof TakeBack)) throw error;
    options.badLines?.(problems.lines);
    return { ...report, problems: problems.named() };
  }
  if (report.added.subscriptions >= MANY)
    await almanac.db.sequelize.query('analyze customers, payment_methods, mandates, subscriptions');
  return { ...report, problems: [] };
}

/** After so many new subscriptions the tables are counted anew at once, so that the next day is planned by what they hold. */
const MANY = 500;

async function addCustomers(
  almanac: Almanac,
  files: readonly ImportFile[],
  report: ImportCounts,
  problems: Problems,
  options: ImportOptions,
  within: Transaction,
): Promise<void> {
  if (files.length === 0) return;
  const customers = await CustomerImport.begin(almanac, report, options.dryRun, within);
  const { language, country } = await settingsOf(almanac, 'business', within);
  const { homeCurrency } = await Business.findOne({ transaction: within, rejectOnEmpty: true });
  const today = await businessDateOf(almanac, within);
  const manner = { locale: localeOf(language, country), homeCurrency, today };
  async function* batches() {
    for (const file of files)
      for await (const { rows, share } of readCustomers(file, problems.tell, manner))
        yield { file, rows, share, cards: await customers.cardsOf(rows) };
  }
  let done = 0;
  // While some are stored, the next are read, and their cards asked for.
  for await (const { file, rows, share, cards } of oneAhead(batches())) {
    await customers.add(rows, cards, ({ line }, says) => problems.tell({ file: file.name, line, says }));
    done += rows.length;
    options.progress?.(done, share);
  }
  await customers.end();
}

/** Asks for the next of what is given out while the one before is worked on. */
async function* oneAhead<T>(source: AsyncGenerator<T, void, void>): AsyncGenerator<T, void, void> {
  let next = source.next();
  // It is waited for, and may fail, only after what is worked on now.
  next.catch(() => undefined);
  try {
    for (;;) {
      const { done, value } = await next;
      if (done) return;
      next = source.next();
      next.catch(() => undefined);
      yield value;
    }
  } finally {
    await source.return().catch(() => undefined);
  }
}

async function textOf(file: ImportFile): Promise<string> {
  return 'text' in file ? file.text : readFile(file.path, 'utf8');
}
