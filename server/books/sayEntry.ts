import type { Almanac } from '../almanac.ts';
import type { Entry } from './post.ts';

/** One side of an entry as it is shown before it is posted: debits are above zero, credits below; minor units, as digits. */
export interface ShownEntryLine {
  readonly account: string;
  readonly amount: string;
}

/** What an account is called that has no row yet. */
const NAMES: Readonly<Record<string, string>> = {
  receivable: 'Receivables',
  clearing: 'Gateway clearing',
  bank: 'Bank',
  cash: 'Cash',
  sales: 'Sales',
  tax: 'Tax',
  credit: 'Credit of customers',
  'written off': 'Written off',
};

/** What entries would post, by the names of their accounts: the lines of one account are summed, those of nothing left out. */
export async function sayEntries(
  { db }: Almanac,
  entries: readonly Pick<Entry, 'lines'>[],
): Promise<ShownEntryLine[]> {
  const known = await db.rows<{ kind: string; code: string; name: string }>(
    'select kind, code, name from accounts',
  );
  const sums = new Map<string, bigint>();
  for (const { account, amount } of entries.flatMap(({ lines }) => lines)) {
    const { kind, code = '' } = account;
    const named = known.find((one) => one.kind === kind && one.code === code)?.name;
    const name = named ?? (code === '' ? (NAMES[kind] ?? kind) : code);
    sums.set(name, (sums.get(name) ?? 0n) + amount);
  }
  return [...sums]
    .filter(([, amount]) => amount !== 0n)
    .map(([account, amount]) => ({ account, amount: amount.toString() }));
}
