/** Where a thread of a pool begins that runs the sources as they are: it reads TypeScript as the process does, and then does the tasks that the pool is for. */
import { workerData } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

register();
const { default: work } = await import(workerData.tasks);
export default work;
