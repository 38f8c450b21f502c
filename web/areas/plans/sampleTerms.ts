/** A rate's terms for a sample customer who starts on a day. */
export function sampleTerms(
  terms: Readonly<Record<string, unknown>>,
  starts: string,
): Record<string, unknown> {
  const once = Array.isArray(terms.once)
    ? { once: (terms.once as object[]).map((entry) => ({ date: starts, ...entry })) }
    : {};
  return { ...terms, ...once, starts };
}
