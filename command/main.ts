import { Command } from 'commander';
import type { PreviewOptions } from './previewCommand.ts';
import { sayAndExit } from './sayAndExit.ts';

/**
 * The one command. Each part is loaded only when it is asked for, so that `preview`, which needs neither a
 * database nor a server, starts at once.
 */
const program = new Command('almanac').description('Keen Almanac runs a subscription business.');

program
  .command('demo')
  .description('start everything with the sample business, on this machine')
  .option('--fresh', 'start over: forget what the demo has stored')
  .option('--port <port>', 'the port of the interface; the next four are used too', '4700')
  .action(async (options: { fresh?: boolean; port: string }) => (await import('./demo.ts')).demo(options));

program
  .command('import')
  .description('bring in plans (JSON) and customers (CSV), all or nothing')
  .argument('<files...>')
  .option('--dry-run', 'list every problem by file and line, and change nothing')
  .action(async (files: string[], options: { dryRun?: boolean }) =>
    (await import('./importCommand.ts')).importCommand(files, options),
  );

program
  .command('verify')
  .description('check what must always be true, here and at the gateway')
  .action(async () => (await import('./verifyCommand.ts')).verifyCommand());

program
  .command('preview')
  .description('what terms come to, day by day; needs no database')
  .argument('<file>', 'terms as JSON, or - for standard input')
  .option('--until <date>', 'payments that start by this day')
  .option('--count <number>', 'so many payments')
  .option('--json', 'the listing as JSON instead of a table')
  .option('--lines', 'the file is JSON Lines: answer each line with one line')
  .action(async (file: string, options: PreviewOptions) =>
    (await import('./previewCommand.ts')).previewCommand(file, options),
  );

program
  .command('bench')
  .description('measure speed and memory, and print the figures')
  .argument('<what>', 'core')
  .action(async (what: string) => (await import('./benchCommand.ts')).benchCommand(what));

program
  .command('setup')
  .description('begin with a business: a JSON file like demo/business.json')
  .argument('<file>')
  .action(async (file: string) => (await import('./setupCommand.ts')).setupCommand(file));

program
  .command('serve')
  .description('the web server, configured by the environment')
  .action(async () => (await import('./serveCommand.ts')).serveCommand());

program
  .command('worker')
  .description('a worker: turns days, sends letters; configured by the environment')
  .action(async () => (await import('./workerCommand.ts')).workerCommand());

program
  .command('test')
  .description('every check and test, as CI runs them')
  .action(async () => (await import('./testCommand.ts')).testCommand());

await program.parseAsync().catch(sayAndExit);
