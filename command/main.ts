import { Command } from 'commander';
import type { BenchOptions } from './bench/options.ts';
import { sayAndExit } from './sayAndExit.ts';

/** The one command. Each part is loaded only when it is asked for. */
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
  .option('--update', 'save rates that differ as new versions; those who subscribe stay on theirs')
  .action(async (files: string[], options: { dryRun?: boolean; update?: boolean }) =>
    (await import('./importCommand.ts')).importCommand(files, options),
  );

program
  .command('export')
  .description('what is offered, as one JSON file on standard output')
  .action(async () => (await import('./exportCommand.ts')).exportCommand());

program
  .command('verify')
  .description('check what must always be true, here and at the gateway')
  .option('--mend', 'first compute anew what is stored ahead: planned charges, monthly values, sums of days')
  .action(async (options: { mend?: boolean }) => (await import('./verifyCommand.ts')).verifyCommand(options));

// This one, and the benchmark of the core, are quick.ts; they stand here so that the list of commands is whole.
program.command('preview').description('what terms come to, day by day; needs no database');
program
  .command('bench')
  .description(
    'measure speed, memory and what faults do, and print the figures: core, run, lists, import, faults',
  )
  .argument(
    '<what>',
    'run: days turned, charges, letters; lists: what screens ask; documents: PDF, UBL and all of a month as one file; import: customers from a file; web: what a browser loads; what-if: ladders compared; faults: many seeds of the simulation',
  )
  .option('--quick', 'run: with 2,000 renewals; lists, import: with 10,000 subscriptions; in under 3 minutes')
  .option('--of <number>', 'lists, import: so many subscriptions')
  .option('--json', 'the figures as one JSON object')
  .option('--seeds <number>', 'faults: so many seeds', '100')
  .option('--from <seed>', 'faults: the first of them', '1')
  .action(async (what: string, options: BenchOptions) =>
    (await import('./bench/bench.ts')).bench(what, options),
  );

program
  .command('setup')
  .description('begin with a business: a JSON file like demo/business.json')
  .argument('<file>')
  .action(async (file: string) => (await import('./setupCommand.ts')).setupCommand(file));

program
  .command('sign-in')
  .description('print a one-time link by which the owner signs in')
  .action(async () => (await import('./signInCommand.ts')).signInCommand());

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
