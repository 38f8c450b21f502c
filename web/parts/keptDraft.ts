import { useEffect, useRef, useState } from 'react';
import { isSecretMember } from '../../core/typed/secrets.ts';

/** With the version of what drafts hold: one of an earlier version is not opened in a form of this. */
const PREFIX = 'draft-2:';

export interface Kept<Draft> {
  /** What was typed before and came back, with when, as an instant; null: nothing was. */
  readonly from: string | null;
  /** Leaves it, and gives what the form begins with. */
  readonly afresh: () => Draft;
  /** It was sent: there is nothing to keep. */
  readonly forget: () => void;
}

/** Forgets every draft: whoever signs in next sees none. */
export function forgetDrafts(): void {
  for (const key of Object.keys(localStorage)) if (key.startsWith('draft')) localStorage.removeItem(key);
}

const OWNER = 'drafts-of';

/** Whoever signs in finds their own drafts, such as after a session that ended by itself, and nobody else's. */
export function keepDraftsOf(person: string): void {
  if (localStorage.getItem(OWNER) !== person) forgetDrafts();
  localStorage.setItem(OWNER, person);
}

/** What a draft holds for keeping: without secrets. */
export function withoutSecrets(draft: unknown): unknown {
  return JSON.parse(
    JSON.stringify(draft, (name, value: unknown) => (isSecretMember(name) ? undefined : value)),
  );
}

/** What was kept under a name, laid over what the form begins with; null where there is nothing, or nothing new. */
export function readKept<Draft extends object>(
  name: string,
  initial: Draft,
): { draft: Draft; at: string } | null {
  const stored = localStorage.getItem(`${PREFIX}${name}`);
  if (stored === null) return null;
  try {
    const { at, draft } = JSON.parse(stored) as { at: string; draft: Partial<Draft> };
    const whole = laidOver(initial, draft);
    return JSON.stringify(whole) === JSON.stringify(initial) ? null : { draft: whole, at };
  } catch {
    return null; // of an earlier version of the form
  }
}

/** What was kept over what the form begins with, part by part: a form that has grown since has what is new as it begins. */
export function laidOver<Draft extends object>(initial: Draft, kept: Partial<Draft>): Draft {
  const isPlain = (value: unknown): value is object =>
    typeof value === 'object' && value !== null && !Array.isArray(value);
  const entries = Object.entries(initial).map(([name, begins]: [string, unknown]) => {
    const value: unknown = (kept as Record<string, unknown>)[name];
    return [name, isPlain(begins) && isPlain(value) ? { ...begins, ...value } : value];
  });
  return {
    ...initial,
    ...kept,
    ...Object.fromEntries(entries.filter(([, value]) => value !== undefined)),
  } as Draft;
}

/** Keeps a draft under a name, or nothing where it is what the form begins with. */
export function keepDraft(name: string, draft: unknown, initial: unknown): void {
  const now = JSON.stringify(withoutSecrets(draft));
  if (now === JSON.stringify(withoutSecrets(initial))) return localStorage.removeItem(`${PREFIX}${name}`);
  const at = JSON.stringify(new Date().toISOString());
  localStorage.setItem(`${PREFIX}${name}`, `{"at":${at},"draft":${now}}`);
}

/** Forgets what was kept under a name. */
export const forgetDraft = (name: string) => localStorage.removeItem(`${PREFIX}${name}`);

/**
 * Keeps a half-filled form in this browser while one goes back, reloads, closes the window or looks at something else, and
 * gives it back when the form is opened again, until whoever typed it signs out. Secrets are left out.
 * @param name of the form and of what it changes, with its version; null keeps nothing
 */
export function useKeptDraft<Draft extends object>(name: string | null, initial: Draft) {
  const [found] = useState(() => (name === null ? null : readKept(name, initial)));
  const [draft, setDraft] = useState<Draft>(() => found?.draft ?? initial);
  const [from, setFrom] = useState(found?.at ?? null);
  // No state: what was drawn before it was sent, and is kept only now, must know of it.
  const isSent = useRef(false);
  useEffect(() => {
    if (name !== null && !isSent.current) keepDraft(name, draft, initial);
  }, [name, draft, initial]);
  const kept: Kept<Draft> = {
    from,
    afresh: () => {
      setFrom(null);
      setDraft(initial);
      return initial;
    },
    forget: () => {
      isSent.current = true;
      if (name !== null) localStorage.removeItem(`${PREFIX}${name}`);
    },
  };
  return { draft, setDraft, kept };
}
