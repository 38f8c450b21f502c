import { workerCommand } from '../../command/workerCommand.ts';

await workerCommand();
