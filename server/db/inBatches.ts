/**
 * All rows of a question, a batch at a time in the order of their numbers. The next batch is read while the one before is
 * worked on.
 * @param read gives the first rows beyond a number, and none at the end
 */
export async function* inBatches<Row extends { readonly id: string }>(
  read: (after: string) => Promise<Row[]>,
): AsyncGenerator<Row[], void> {
  let coming = read('0');
  for (;;) {
    const some = await coming;
    const last = some.at(-1);
    if (!last) return;
    coming = read(last.id);
    coming.catch(() => undefined); // It is told when it is waited for, if it is.
    yield some;
  }
}
