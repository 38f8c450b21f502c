import type { z } from 'zod';
import { acrossMembers } from './acrossMembers.ts';
import { anchorFault } from './anchorFault.ts';
import { acceptsOf } from './accepts.ts';
import { pointerTo, RefusedTerms, type Fault } from './fault.ts';
import { oneOffTermsSchema, recurringTermsSchema, type Terms } from './schema.ts';

const acceptsRecurring = acceptsOf(recurringTermsSchema);
const acceptsOneOff = acceptsOf(oneOffTermsSchema);

export type Checked =
  { readonly ok: true; readonly terms: Terms } | { readonly ok: false; readonly faults: Fault[] };

/**
 * Checks a document against rules 1 to 7 and reports every fault it finds, each with a JSON Pointer and a
 * sentence that says what is allowed. Anything may be passed in; nothing is thrown.
 *
 * Two passes: what each member is by itself (the Zod schemas), then what members are to one another, where
 * a rule is passed over when a member it speaks of is already at fault, so that one mistake is told once. Good documents
 * are found good quickly, and are given back as they are; what is wrong with others may take longer to say.
 */
export function checkTerms(document: unknown): Checked {
  if (document === null || typeof document !== 'object' || Array.isArray(document)) {
    return { ok: false, faults: [{ pointer: '', detail: 'Terms are one JSON object.' }] };
  }
  const oneOff = !('lines' in document) && 'once' in document;
  if ((oneOff ? acceptsOneOff : acceptsRecurring)(document)) {
    const across = acrossMembers(document as Record<string, unknown>, oneOff, []);
    if (across.length === 0) return { ok: true, terms: document as Terms };
  }
  const schema = oneOff ? oneOffTermsSchema : recurringTermsSchema;
  const parsed = schema.safeParse(document);
  const faults = parsed.success ? [] : parsed.error.issues.flatMap((issue) => faultsOf(issue, document));
  const all = [...faults, ...acrossMembers(document as Record<string, unknown>, oneOff, faults)];
  const distinct = [...new Map(all.map((fault) => [fault.pointer, fault])).values()];
  if (!parsed.success || distinct.length > 0) return { ok: false, faults: distinct };
  return { ok: true, terms: parsed.data };
}

/** Like {@link checkTerms}, for callers that cannot go on with faulty terms: throws {@link RefusedTerms}. */
export function requireTerms(document: unknown): Terms {
  const checked = checkTerms(document);
  if (!checked.ok) throw new RefusedTerms(checked.faults);
  return checked.terms;
}

function faultsOf(issue: z.core.$ZodIssue, document: unknown): Fault[] {
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.map((key) => ({
      pointer: pointerTo([...issue.path, key]),
      detail: `There is no member "${key}" here; leave it out.`,
    }));
  }
  if (issue.path.at(-1) === 'on' && issue.code === 'invalid_union') {
    const fault = anchorFault(memberAt(document, issue.path));
    return [{ pointer: pointerTo([...issue.path, ...fault.path]), detail: fault.detail }];
  }
  const missing = memberAt(document, issue.path) === undefined;
  return [
    {
      pointer: pointerTo(issue.path),
      detail: missing ? `This is missing. ${sentence(issue)}` : sentence(issue),
    },
  ];
}

/** Zod's own words are kept only where a schema gave none of its own, and then made into a sentence. */
function sentence(issue: z.core.$ZodIssue): string {
  return issue.message.endsWith('.') ? issue.message : `${issue.message}.`;
}

function memberAt(document: unknown, path: readonly PropertyKey[]): unknown {
  return path.reduce<unknown>(
    (value, key) =>
      value !== null && typeof value === 'object' ? (value as Record<PropertyKey, unknown>)[key] : undefined,
    document,
  );
}
