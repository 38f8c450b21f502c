/** What was read of a typed text: the value in the form it is stored in, or why it is none, for the field. */
export type Reading<Value = string> =
  { readonly ok: true; readonly value: Value } | { readonly ok: false; readonly says: string };

export const read = <Value>(value: Value): Reading<Value> => ({ ok: true, value });
export const refused = (says: string): Reading<never> => ({ ok: false, says });
