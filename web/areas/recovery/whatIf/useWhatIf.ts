import { wrap, type Remote } from 'comlink';
import { useEffect, useState } from 'react';
import type { WorkingDays } from '../../../../core/dates/workingDay.ts';
import type { PastRecovery } from '../../../../core/whatIf/history.ts';
import type { WhatIfWorker } from './whatIf.worker.ts';

export type Learned = Awaited<ReturnType<WhatIfWorker['learn']>>;

export interface WhatIf {
  readonly worker: Remote<WhatIfWorker>;
  readonly learned: Learned;
}

/** A worker that has learned the past; null while it does. It ends with the page. */
export function useWhatIf(
  past: PastRecovery | undefined,
  calendar: WorkingDays | null,
): { readonly whatIf: WhatIf | null; readonly failed: boolean } {
  const [whatIf, setWhatIf] = useState<WhatIf | null>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    if (!past || !calendar) return;
    const thread = new Worker(new URL('./whatIf.worker.ts', import.meta.url), { type: 'module' });
    const worker = wrap<WhatIfWorker>(thread);
    let isOver = false;
    thread.onerror = () => setFailed(true);
    worker.learn(past, calendar).then(
      (learned) => !isOver && setWhatIf({ worker, learned }),
      () => !isOver && setFailed(true),
    );
    return () => {
      isOver = true;
      thread.terminate();
      setWhatIf(null);
    };
  }, [past, calendar]);
  return { whatIf, failed };
}
