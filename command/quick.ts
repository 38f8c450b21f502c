import { Command } from 'commander';
import { benchCore } from './bench/core.ts';
import { previewCommand, type PreviewOptions } from './previewCommand.ts';
import { PlainFailure, sayAndExit } from './sayAndExit.ts';

/**
 * The commands that need neither database nor server. They are bundled into one file (see the script `almanac`),
 * so that they start at once.
 */
const program = new Command('almanac');

program
  .command('preview')
  .description('what terms come to, day by day; needs no database')
  .argument('<file>', 'terms as JSON, or - for standard input')
  .option('--until <date>', 'payments that start by this day')
  .option('--count <number>', 'so many payments')
  .option('--json', 'the listing as JSON instead of a table')
  .option('--lines', 'the file is JSON Lines: answer each line with one line')
  .action((file: string, options: PreviewOptions) => previewCommand(file, options));

program
  .command('bench')
  .description('measure speed and memory, and print the figures')
  .argument('<what>', 'core; run and faults are asked of command/main.ts', (what) => {
    if (what !== 'core') throw new PlainFailure('There are three benchmarks: core, run and faults.');
  })
  .action(() => benchCore());

program.parseAsync().catch(sayAndExit);
