import { expose } from 'comlink';
import type { WorkingDays } from '../../../../core/dates/workingDay.ts';
import type { RetryManner } from '../../../../core/recovery/ladder.ts';
import type { Climbed } from '../../../../core/recovery/stepOfCase.ts';
import { checkModel } from '../../../../core/whatIf/checkModel.ts';
import type { PastRecovery } from '../../../../core/whatIf/history.ts';
import { fitModel, learned } from '../../../../core/whatIf/model.ts';
import { replay } from '../../../../core/whatIf/replay.ts';
import { suggestLadder, type Wanted } from '../../../../core/whatIf/suggest.ts';

/** As many times the past is replayed: the ends of an interval are then known to about a hundredth. */
const DRAWS = 1000;
/** The same question has the same answer. */
const SEED = 1;

/** The calculation of what-if, beside the page: it keeps what it was told of the past. */
class WhatIf {
  #past: PastRecovery = { declines: [], retries: [], ladders: [] };
  #model = fitModel(this.#past);

  /** Fits the model to the past, and checks it on the later part of it. */
  learn(past: PastRecovery, calendar: WorkingDays) {
    this.#past = past;
    this.#model = fitModel(past);
    return { seen: this.#model.seen, odds: learned(this.#model, past), checked: checkModel(past, calendar) };
  }

  compare(ladders: readonly Climbed[]) {
    return replay(this.#model, this.#past.declines, ladders, { draws: DRAWS, seed: SEED });
  }

  suggest(wanted: Wanted, usual: { readonly manner: RetryManner; readonly calendar: WorkingDays }) {
    return suggestLadder(this.#model, this.#past.declines, wanted, usual);
  }
}
export type WhatIfWorker = WhatIf;

expose(new WhatIf());
