/** A failure that its sentence explains in full. */
export class PlainFailure extends Error {}

/** Ends the command with one sentence where that says it all, and with the stack where it does not. */
export function sayAndExit(error: unknown): never {
  const isPlain =
    error instanceof PlainFailure || (error instanceof Error && error.name === 'MissingConfiguration');
  console.error(isPlain ? (error as Error).message : error);
  process.exit(1);
}
