import { z } from 'zod';

const word = z.string().regex(/^[a-z][a-z ]{0,39}$/, 'There is no such list.');

/** A way of looking at a list: what is asked of it, and which columns stand in it. Without a name: how it opens. */
export const listViewSchema = z.strictObject({
  list: word,
  name: z.string().trim().max(60, 'At most 60 characters.').default(''),
  /** Search, filters and order, by the names that they have in the address. */
  asked: z
    .record(z.string().regex(/^[a-z]{1,20}$/), z.string().max(100))
    .refine((asked) => Object.keys(asked).length <= 12, 'That is more than a list can be asked.')
    .default({}),
  /** The columns by their headings, at least one. */
  columns: z.array(z.string().min(1).max(60)).min(1, 'Leave at least one column.').max(40),
});
export const viewsQuery = z.object({ list: word });

export interface ListView {
  readonly id: string;
  /** Empty: how the list opens. */
  readonly name: string;
  readonly asked: Readonly<Record<string, string>>;
  readonly columns: readonly string[];
}
