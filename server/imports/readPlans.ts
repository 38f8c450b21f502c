import { isNestedTooDeeply } from '../parsing/nesting.ts';
import { outsideOfLoop } from '../parsing/outsideOfLoop.ts';
import { faultsOfRate } from '../plans/rateTerms.ts';
import { withoutEarlierMembers } from './earlierMembers.ts';
import { LinesOf } from './linesOf.ts';
import { planFileSchema, type PlanFile } from './planFile.ts';
import type { Problem } from './problems.ts';

/** A file of what is offered, with the lines of its text; null where it cannot be read. */
export interface ReadPlans {
  readonly plans: PlanFile;
  readonly lines: LinesOf;
}

/** Reads a file of what is offered; what is wrong with it becomes a problem with its line. */
export async function readPlans(
  file: { readonly name: string; readonly text: string },
  tellProblem: (problem: Problem) => void,
): Promise<ReadPlans | null> {
  const tell = (line: number, says: string) => tellProblem({ file: file.name, line, says });
  if (file.text.includes('\0')) {
    const line = file.text.slice(0, file.text.indexOf('\0')).split('\n').length;
    tell(line, 'There is a character here that no text holds (NUL).');
    return null;
  }
  if (isNestedTooDeeply(file.text)) {
    tell(1, 'This is nested too deeply to be a file of what is offered.');
    return null;
  }
  let document: unknown;
  try {
    document = withoutEarlierMembers(JSON.parse(file.text));
  } catch (error) {
    const position = /position (\d+)/.exec((error as Error).message)?.[1];
    const line = position === undefined ? 1 : file.text.slice(0, Number(position)).split('\n').length;
    tell(line, 'This is not JSON from here on.');
    return null;
  }
  const lines = new LinesOf(file.text);
  const parsed = planFileSchema.safeParse(document);
  if (!parsed.success) {
    for (const { path, message } of parsed.error.issues)
      tell(lines.at(path), `${path.map(String).join('/')}: ${message}`);
    return null;
  }
  for (const [i, plan] of parsed.data.plans.entries()) {
    plan.description = await outsideOfLoop('safeText', plan.description);
    for (const [j, rate] of plan.rates.entries())
      for (const { pointer, detail } of faultsOfRate(rate.terms))
        tell(
          lines.at(['plans', i, 'rates', j, 'terms', ...pointer.split('/').slice(1)]),
          `${pointer}: ${detail}`,
        );
  }
  return { plans: parsed.data, lines };
}
