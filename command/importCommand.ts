import { accessSync, constants } from 'node:fs';
import { AccountTrouble } from '../server/gateways/port.ts';
import { importFiles } from '../server/imports/importFiles.ts';
import type { ImportReport } from '../server/imports/report.ts';
import { openAlmanac } from './open.ts';
import { PlainFailure } from './sayAndExit.ts';

/** `almanac import`: brings in files, or with --dry-run only says what would happen. */
export async function importCommand(
  names: readonly string[],
  options: { dryRun?: boolean; update?: boolean },
): Promise<void> {
  const files = names.map((name) => {
    try {
      accessSync(name, constants.R_OK);
      return { name, path: name };
    } catch {
      throw new PlainFailure(`The file ${name} cannot be read.`);
    }
  });
  const almanac = await openAlmanac();
  try {
    const report = await importFiles(almanac, files, {
      dryRun: options.dryRun ?? false,
      update: options.update ?? false,
      progress: sayProgress,
    });
    for (const { file, line, says } of report.problems) console.error(`${file}:${line}: ${says}`);
    if (report.problems.length > 0) {
      throw new PlainFailure(`${count(report.problems.length, 'problem')}; nothing was changed.`);
    }
    console.log(summary(report, options.dryRun ?? false));
  } catch (error) {
    if (error instanceof AccountTrouble)
      throw new PlainFailure('The gateway does not answer; nothing was changed.');
    throw error;
  } finally {
    await almanac.db.close();
  }
}

/** Says how far the rows are, on one line of a terminal. */
export function sayProgress(done: number, share: number): void {
  if (!process.stderr.isTTY) return;
  process.stderr.write(`\r${done} rows, ${Math.floor(share * 100)} %${share === 1 ? '\n' : ''}`);
}

function summary({ added, changed, alreadyThere }: ImportReport, dryRun: boolean): string {
  const list = [
    count(added.plans, 'plan'),
    count(added.rates, 'rate'),
    count(added.discounts, 'discount'),
    count(added.customers, 'customer'),
    count(added.subscriptions, 'subscription'),
  ].join(', ');
  const there = alreadyThere.rates + alreadyThere.customers + alreadyThere.subscriptions;
  const left = there > 0 ? ` ${there} entries were there already and are left as they are.` : '';
  const versions = changed.rates > 0 ? ` ${count(changed.rates, 'rate')} in a new version.` : '';
  return `${dryRun ? 'Would add' : 'Added'} ${list}.${versions}${left}${dryRun ? ' Nothing was changed.' : ''}`;
}

const count = (number: number, noun: string) => `${number} ${noun}${number === 1 ? '' : 's'}`;
