/** Where a thread of the pool begins: it reads TypeScript as the process does, and then does the tasks. */
import { register } from 'tsx/esm/api';

register();
const { default: work } = await import('./tasks.ts');
export default work;
