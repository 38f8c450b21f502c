import { readFileSync } from 'node:fs';
import { beginBusiness, businessFileSchema, type BusinessFile } from '../server/business/beginBusiness.ts';
import { migrate } from '../server/db/migrate.ts';
import { migrateQueue } from '../server/run/worker.ts';
import { openAlmanac } from './open.ts';
import { PlainFailure } from './sayAndExit.ts';

/** `almanac setup`: brings the database up to date and begins with a business. */
export async function setupCommand(name: string): Promise<void> {
  const file = readBusiness(name);
  const almanac = await openAlmanac();
  try {
    await migrate(almanac.db.sequelize);
    await migrateQueue(almanac.config.DATABASE_URL);
    const began = await beginBusiness(almanac, file, new Date());
    console.log(began ? `${file.name} is set up.` : 'There is a business already; it was left as it is.');
  } finally {
    await almanac.db.close();
  }
}

/** Reads a business file, or says what is wrong with it. */
export function readBusiness(name: string): BusinessFile {
  let document: unknown;
  try {
    document = JSON.parse(readFileSync(name, 'utf8'));
  } catch (error) {
    throw new PlainFailure(`The file ${name} cannot be read: ${(error as Error).message}`);
  }
  const parsed = businessFileSchema.safeParse(document);
  if (!parsed.success) {
    const lines = parsed.error.issues.map(
      ({ path, message }) => `  ${path.join('.') || 'the file'}: ${message}`,
    );
    throw new PlainFailure(
      `${name} does not describe a business yet (demo/business.json is an example):\n${lines.join('\n')}`,
    );
  }
  return parsed.data;
}
