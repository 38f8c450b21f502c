import { join } from 'node:path';
import { playSeed } from '../../testing/simulation/playSeed.ts';
import { Simulation } from '../../testing/simulation/Simulation.ts';
import { startCluster } from '../cluster.ts';
import { endOnSignals } from './bench.ts';
import { ROOT } from '../settings.ts';

/*
 * One lane of `almanac bench faults`: a process with a database server of its own, which it may kill. It plays the seeds
 * that it is handed, and answers each with what was wrong with it.
 */
endOnSignals();
// Whoever hands out the seeds is gone.
process.once('disconnect', () => process.exit(130));
const [lane = '0'] = process.argv.slice(2);
const folder = join(ROOT, '.almanac', 'faults', `lane-${lane}`);
const cluster = await startCluster(folder, 26_970 + Number(lane), { killable: true });
const simulation = await Simulation.begin(cluster.url('postgres'), cluster.restart);

process.on('message', (seed: number | 'end') => {
  void (async () => {
    if (seed === 'end') {
      await simulation.end();
      cluster.stop();
      process.exit(0);
    }
    process.send?.(await playSeed(simulation, seed));
  })().catch((error: unknown) => {
    process.send?.({ seed, wrong: [`the simulation itself failed: ${String((error as Error).stack)}`] });
  });
});
process.send?.('ready');
