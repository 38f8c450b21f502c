import type { Almanac } from '../almanac.ts';
import { importFiles } from './importFiles.ts';
import { readPlans } from './readPlans.ts';
import { Problems } from './problems.ts';
import type { OfferImport } from './messages.ts';
import { offerDifferences } from './offerDifferences.ts';
import { offerForFile, withoutEmpty } from './offerForFile.ts';

/** Everything that is offered, in the open format, with the pictures and documents that plans show. */
export async function exportOffer(almanac: Almanac): Promise<object> {
  return withoutEmpty(await offerForFile(almanac, { files: true }));
}

/** Takes a file of what is offered: a dry run says what differs from what is stored; otherwise that is done. */
export async function importOffer(
  almanac: Almanac,
  asked: { readonly text: string; readonly dryRun: boolean; readonly update: boolean },
): Promise<OfferImport> {
  const file = { name: 'offer.json', text: asked.text };
  const problems = new Problems();
  const offer = (await readPlans(file, problems.tell))?.plans ?? null;
  const differences =
    offer === null || problems.count > 0
      ? []
      : offerDifferences(await offerForFile(almanac, { archived: true }), offer);
  const report = await importFiles(almanac, [file], { dryRun: asked.dryRun, update: asked.update });
  return {
    problems: report.problems.map(({ line, says }) => ({ line, says })),
    differences,
    added: report.added,
    changed: report.changed,
  };
}
