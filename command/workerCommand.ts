import { startWorker } from '../server/run/worker.ts';
import { environmentOfProduction } from './settings.ts';
import { openAlmanac } from './open.ts';

/** `almanac worker`: works until it is told to stop, and then finishes what is in hand. */
export async function workerCommand(): Promise<void> {
  const almanac = await openAlmanac(environmentOfProduction, { connections: 20, prepares: true });
  const runner = await startWorker(almanac);
  console.log('worker at work');
  const stop = () => void runner.stop();
  process.once('SIGINT', stop);
  process.once('SIGTERM', stop);
  await runner.promise;
  await almanac.db.close();
  process.exit(0);
}
