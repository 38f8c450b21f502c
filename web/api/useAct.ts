import { useState } from 'react';
import { useSWRConfig } from 'swr';
import { Problem } from './client.ts';

/** How a command went: under way, refused with a problem, or done. */
export interface Acting {
  readonly busy: boolean;
  readonly problem: Problem | null;
  /** What came of the last one that was done, in words. */
  readonly done: string;
  /** Does a command and asks everything anew after it. Gives whether it was done. */
  readonly act: (work: () => Promise<unknown>, done?: string) => Promise<boolean>;
  readonly clear: () => void;
}

/** Does commands one at a time and keeps how they went. */
export function useAct(): Acting {
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [done, setDone] = useState('');
  const { mutate } = useSWRConfig();
  const clear = () => {
    setProblem(null);
    setDone('');
  };
  const act = async (work: () => Promise<unknown>, says = '') => {
    clear();
    setBusy(true);
    try {
      await work();
      setDone(says);
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/'));
      return true;
    } catch (error) {
      setProblem(error instanceof Problem ? error : new Problem(0, 'That did not work.', []));
      return false;
    } finally {
      setBusy(false);
    }
  };
  return { busy, problem, done, act, clear };
}
