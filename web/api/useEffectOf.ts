import { useEffect, useState } from 'react';
import { post, Problem } from './client.ts';

/** What something would do: asked a moment after the typing stops, and only of the latest that was typed. */
export interface Looked<Effect> {
  /** The last effect that there was; null before the first. */
  readonly effect: Effect | null;
  /** Why it would not be done; null where it would, or is not known yet. */
  readonly problem: Problem | null;
  /** Whether the effect, or the problem, is of what is asked now. */
  readonly current: boolean;
}

const TYPING_MS = 250;

/**
 * Asks the server what a message would do.
 * @param message what would be sent; null while it is not complete, which asks nothing
 */
export function useEffectOf<Effect>(path: string, message: object | null): Looked<Effect> {
  const asked = message === null ? '' : `${path} ${JSON.stringify(message)}`;
  const [looked, setLooked] = useState<Omit<Looked<Effect>, 'current'> & { readonly asked: string }>({
    asked: '',
    effect: null,
    problem: null,
  });
  useEffect(() => {
    if (asked === '') return;
    let current = true;
    const body = JSON.parse(asked.slice(path.length + 1)) as object;
    const timer = setTimeout(() => {
      post<Effect>(path, body).then(
        (effect) => current && setLooked({ asked, effect, problem: null }),
        (error: unknown) =>
          current &&
          setLooked({
            asked,
            effect: null,
            problem: error instanceof Problem ? error : new Problem(0, 'That did not work.', []),
          }),
      );
    }, TYPING_MS);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [path, asked]);
  const current = looked.asked === asked && asked !== '';
  return { effect: looked.effect, problem: current ? looked.problem : null, current };
}
