import { checkTerms } from '../terms/check.ts';
import { RefusedTerms, type Fault } from '../terms/fault.ts';
import type { Terms } from '../terms/schema.ts';
import { parseDay } from '../dates/day.ts';
import { listPayments, type Horizon } from './listPayments.ts';
import type { Output } from './output.ts';

/** The answer to one document: its listing, or why it is refused. */
export type Answer =
  | { readonly id?: unknown; readonly output: Output }
  | { readonly id?: unknown; readonly errors: readonly Fault[] };

/**
 * Answers one line of JSON Lines: terms, or `{ "id", "terms", "horizon" }` whose other members are passed over.
 * Never throws: what is no JSON, or no terms, is answered as refused.
 * @param horizon for lines that bring none of their own
 */
export function answerLine(text: string, horizon: Horizon = null): Answer {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    return { errors: [{ pointer: '', detail: 'This line is not JSON.' }] };
  }
  if (!isObject(document) || !('terms' in document && isObject(document.terms)))
    return answerTerms(document, horizon);
  const named = 'id' in document ? { id: document.id } : {};
  const own = readHorizon(document.horizon);
  if (own === undefined) {
    const detail = 'A horizon is { "until": date }, { "count": whole number } or null.';
    return { ...named, errors: [{ pointer: '/horizon', detail }] };
  }
  return { ...named, ...answerTerms(document.terms, own ?? horizon) };
}

/** Checks and lists one document of terms. */
export function answerTerms(document: unknown, horizon: Horizon): Answer {
  const checked = checkTerms(document);
  if (!checked.ok) return { errors: checked.faults };
  return listOrRefuse(checked.terms, horizon);
}

function listOrRefuse(terms: Terms, horizon: Horizon): Answer {
  try {
    return { output: listPayments(terms, horizon) };
  } catch (error) {
    if (error instanceof RefusedTerms) return { errors: error.faults };
    throw error;
  }
}

function isObject(value: unknown): value is Record<string, unknown> {
  return value !== null && typeof value === 'object' && !Array.isArray(value);
}

/** A horizon as it stands in a document; undefined where it is none. */
export function readHorizon(value: unknown): Horizon | undefined {
  if (value === undefined || value === null) return null;
  if (!isObject(value) || Object.keys(value).length !== 1) return undefined;
  if (typeof value.until === 'string')
    return parseDay(value.until) === null ? undefined : { until: value.until };
  const { count } = value;
  return typeof count === 'number' && Number.isSafeInteger(count) && count >= 0 ? { count } : undefined;
}
