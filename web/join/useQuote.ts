import { useEffect, useRef, useState } from 'react';
import type { Quote, SignUpPageInput } from '../../server/signUp/messages.ts';
import { post, Problem, withQuery } from '../api/client.ts';

/** So long after the last change a choice is priced: whoever types is not asked about each letter. */
const WAIT_MS = 250;

/** What a choice comes to, as the server computes it, or why it comes to nothing. */
export interface Quoted {
  readonly quote: Quote | null;
  /** What was chosen last is being computed. */
  readonly busy: boolean;
  readonly problem: Problem | null;
  /** Computes it anew, as something was changed meanwhile. */
  readonly anew: () => void;
}

/**
 * What is chosen, priced by the server each time it changes.
 * @param asked the question as it is sent; null: it is not complete yet
 */
export function useQuote(
  key: string,
  asked: object | null,
  of: { rehearsal: string; draft: SignUpPageInput | null },
): Quoted {
  const [held, setHeld] = useState<{ for: string; quote: Quote | null; problem: Problem | null } | null>(
    null,
  );
  const [round, setRound] = useState(0);
  const question = asked === null ? '' : JSON.stringify(asked);
  const { rehearsal, draft } = of;
  const drafted = draft === null ? '' : JSON.stringify(draft);
  const first = useRef(true);
  const name = `${question}${drafted}${round}`;
  useEffect(() => {
    if (question === '') return;
    let wanted = true;
    const ask = async () => {
      try {
        const quote = await (drafted === ''
          ? post<Quote>(
              withQuery(`/api/join/${encodeURIComponent(key)}/quote`, { rehearsal }),
              JSON.parse(question),
            )
          : post<Quote>('/api/sign-up-pages/quote', {
              value: JSON.parse(drafted),
              asked: JSON.parse(question),
            }));
        if (wanted) setHeld({ for: name, quote, problem: null });
      } catch (error) {
        if (wanted && error instanceof Problem)
          setHeld((now) => ({ for: name, quote: now?.quote ?? null, problem: error }));
      }
    };
    const timer = setTimeout(() => void ask(), first.current ? 0 : WAIT_MS);
    first.current = false;
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [question, drafted, key, rehearsal, name]);
  return {
    quote: held?.quote ?? null,
    busy: question !== '' && held?.for !== name,
    problem: held?.for === name ? held.problem : null,
    anew: () => setRound((n) => n + 1),
  };
}
