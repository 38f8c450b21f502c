import type { Database } from '../server/db/database.ts';

/** The statements that some work asks of the database, but for the beginnings and ends of transactions. */
export async function statementsOf({ sequelize }: Database, work: () => Promise<unknown>): Promise<string[]> {
  // The mapper's own log of what it asks; its types keep it to themselves.
  const { options } = sequelize as unknown as {
    options: { logging: false | ((statement: string) => void) };
  };
  const asked: string[] = [];
  options.logging = (statement) => {
    const plain = statement.replace(/^Executing \(.*?\): /, '');
    if (!/^(START TRANSACTION|COMMIT|ROLLBACK)/.test(plain)) asked.push(plain);
  };
  try {
    await work();
  } finally {
    options.logging = false;
  }
  return asked;
}
