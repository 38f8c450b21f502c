import type { Bound } from './database.ts';

/** The types of PostgreSQL that rows are handed over in. */
type ColumnType = 'bigint' | 'int' | 'text' | 'date' | 'jsonb' | 'boolean' | 'timestamptz';
type Value = string | number | bigint | boolean | null;

/**
 * Many rows as one table that a statement reads: an array for each column, so that a statement is the same however many
 * rows there are. A column `place` counts them from 1, in their order.
 * @param as the name of the table; two tables in one statement need two
 * @example
 * const { table, bound } = unnested({ id: 'bigint', amount: 'bigint' }, [{ id: '7', amount: 300n }]);
 * await db.rows(`update invoices i set collected = x.amount from ${table} where i.id = x.id`, bound, within);
 */
export function unnested<Column extends string>(
  columns: Readonly<Record<Column, ColumnType>>,
  rows: readonly Readonly<Record<Column, Value>>[],
  as = 'x',
): { readonly table: string; readonly bound: Record<string, Bound> } {
  const names = Object.keys(columns) as Column[];
  const arrays = names.map((name) => `$${as}_${name}::${columns[name]}[]`);
  const bound = Object.fromEntries(names.map((name) => [`${as}_${name}`, arrayOf(rows, name)]));
  return {
    table: `unnest(${arrays.join(', ')}) with ordinality as ${as} (${[...names, 'place'].join(', ')})`,
    bound,
  };
}

/** One column of rows, written as PostgreSQL reads arrays ("Array Input and Output Syntax" of its manual). */
function arrayOf<Column extends string>(
  rows: readonly Readonly<Record<Column, Value>>[],
  name: Column,
): string {
  const elements = rows.map(({ [name]: value }) => {
    if (value === null) return 'NULL';
    if (typeof value !== 'string') return String(value);
    if (!/[\\"]/.test(value)) return `"${value}"`;
    return `"${value.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`;
  });
  return `{${elements.join(',')}}`;
}
