import { cleanSvg } from './cleanSvg.ts';
import { safeText } from './formattedText.ts';
import { textOfHtml } from './plainText.ts';
import { strengthOf } from './strength.ts';
import { TooMuch } from './tooMuch.ts';

/** What is read outside of the event loop, each by what it takes. */
export const TASKS = { cleanSvg, safeText, textOfHtml, strengthOf };
export type Tasks = typeof TASKS;

/** What a worker is asked: one of the tasks, with what it takes. */
export interface Asked {
  readonly task: keyof Tasks;
  readonly given: readonly unknown[];
}

/** What came of it: errors lose their kind on the way between threads. */
export type Came = { readonly done: unknown } | { readonly tooMuch: true };

export default function work({ task, given }: Asked): Came {
  try {
    return { done: (TASKS[task] as (...given: readonly unknown[]) => unknown)(...given) };
  } catch (error) {
    if (error instanceof TooMuch || error instanceof RangeError) return { tooMuch: true };
    throw error;
  }
}
