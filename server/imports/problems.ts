/** What is wrong with a line of a file that is to be imported. */
export interface Problem {
  readonly file: string;
  readonly line: number;
  readonly says: string;
}

/** So many problems are named one by one: nobody mends more at a time. */
const MOST_NAMED = 100;

/** So many lines are given back to be mended together. */
const MOST_LINES = 10_000;

/** The problems of files, of which the first are kept and the others counted, however many there are. */
export class Problems {
  private readonly first: Problem[] = [];
  private next: Problem | null = null;
  count = 0;
  /** The lines with problems, as many as are kept to be mended together. */
  readonly lines = new Map<number, string>();

  readonly tell = (problem: Problem): void => {
    this.count += 1;
    const before = this.lines.get(problem.line);
    if (before !== undefined) this.lines.set(problem.line, `${before}; ${problem.says}`);
    else if (this.lines.size < MOST_LINES) this.lines.set(problem.line, problem.says);
    if (this.first.length < MOST_NAMED) this.first.push(problem);
    else this.next ??= problem;
  };

  /** The first of them, and in the last line how many more there are. */
  named(): Problem[] {
    const more = this.count - MOST_NAMED;
    if (!this.next) return [...this.first];
    const { file, line } = this.next;
    const says =
      more === 1 ? 'There is one more problem.' : `There are ${more} more problems, the next in this line.`;
    return [...this.first, { file, line, says }];
  }
}
