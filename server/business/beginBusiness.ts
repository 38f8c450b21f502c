import { z } from 'zod';
import { exponentOf } from '../../core/money/currency.ts';
import { DEFAULT_LADDER, STARTING_LADDERS } from '../../core/recovery/startingLadders.ts';
import type { Almanac } from '../almanac.ts';
import { makeVersion } from '../recovery/makeVersion.ts';
import { clockDate } from '../run/clockDate.ts';
import { Business } from './Business.ts';

/** What a business begins with. With `practice` its date is turned by hand, from `startsOn`. */
export const businessFileSchema = z.strictObject({
  name: z
    .string('Give the name that customers know.')
    .trim()
    .min(1, 'Give the name that customers know.')
    .max(120, 'A name has at most 120 characters.'),
  homeCurrency: z
    .string('Give a currency of ISO 4217, such as GBP.')
    .refine((code) => exponentOf(code) !== null, 'Give a currency of ISO 4217, such as GBP.'),
  timeZone: z
    .string('Give a time zone such as Europe/London.')
    .refine(isTimeZone, 'Give a time zone such as Europe/London.'),
  senderAddress: z.email('Give the address that letters come from.'),
  statementText: z
    .string(
      'Give what a bank prints on statements: at most 22 capitals, digits, spaces, points, stars or hyphens.',
    )
    .regex(/^[A-Z0-9 .*-]{1,22}$/, 'Give at most 22 capitals, digits, spaces, points, stars or hyphens.'),
  practice: z.strictObject({ startsOn: z.iso.date(), turnTo: z.iso.date() }).optional(),
});
export type BusinessFile = z.infer<typeof businessFileSchema>;

/** Begins with a business in an empty database; where there is one already it is left alone. Gives whether it began. */
export async function beginBusiness(
  almanac: Pick<Almanac, 'db'>,
  file: BusinessFile,
  now: Date,
): Promise<boolean> {
  return almanac.db.transaction(async (within) => {
    if (await Business.findOne({ transaction: within })) return false;
    const { practice, ...facts } = file;
    const businessDate = practice?.startsOn ?? clockDate(file.timeZone, now);
    await Business.create(
      { ...facts, practice: practice !== undefined, businessDate },
      { transaction: within },
    );
    await almanac.db.rows(
      `insert into invoice_series (first_number, prefix, began_on) values (1, '', $businessDate)`,
      { businessDate },
      within,
    );
    await makeVersion(
      {
        ...{ name: STARTING_LADDERS.steady.name, policy: DEFAULT_LADDER, serves: {}, isDefault: true },
        ...{ of: null, place: 0, madeOn: businessDate, madeBy: '' },
      },
      within,
    );
    return true;
  });
}

function isTimeZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}
