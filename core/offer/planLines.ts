import type { LineSource } from '../terms/law.ts';
import type { Terms } from '../terms/schema.ts';
import type { RateTerms } from './composeTerms.ts';
import type { ChosenExtra } from './extras.ts';

/** Lines of another plan that are charged with a subscription, on its dates. */
export interface PlanLines {
  readonly plan: string;
  /** The terms that its rate and what was chosen of it come to. */
  readonly terms: Terms;
  readonly taxId: string | null;
  readonly account: string;
}

/** The subscription that they are charged with. */
export interface Host {
  readonly terms: Terms;
  readonly taxId: string | null;
  readonly account: string;
}

/** What the keys of such lines begin with. */
const PLAN_LINE = 'plan-line-';

/**
 * Why the lines of another rate cannot be charged with a subscription, in words, or null: they share its currency and its
 * interval, and come without dates of their own.
 */
export function whyApart(terms: RateTerms, own: RateTerms): string | null {
  if (!('lines' in terms) || !('lines' in own))
    return 'What is sold once is no line of a subscription: begin it beside this one.';
  if (terms.currency !== own.currency) return `It is charged in ${terms.currency}: begin it beside this one.`;
  if (terms.interval !== own.interval) return 'It has another interval: begin it beside this one.';
  if ([...terms.lines, ...own.lines].some(({ price }) => price.scheme === 'instalments'))
    return 'What is paid in instalments is invoiced by itself: begin it beside this one.';
  // Tax that a rate fixes itself and tax by law cannot stand side by side.
  if ((terms.tax === undefined) !== (own.tax === undefined))
    return 'Its tax is set otherwise than that of the subscription: begin it beside this one.';
  return null;
}

/**
 * Lines of other plans as extra lines of a subscription, which go through every later change as those of its own plan do,
 * and where each comes from. A line is called as in its rate, or else by its plan; one whose name is taken says its plan too.
 */
export function linesOfPlans(
  others: readonly PlanLines[],
  host: Host,
): { readonly extras: ChosenExtra[]; readonly sources: LineSource[] } {
  const taken = new Set('lines' in host.terms ? host.terms.lines.map(({ name = '' }) => name) : []);
  const extras: ChosenExtra[] = [];
  const sources: LineSource[] = [];
  for (const { plan, terms, taxId, account } of others) {
    for (const line of 'lines' in terms ? terms.lines : []) {
      const { quantity = 1, price, intro, discounts, tax } = line;
      if (price.scheme === 'instalments') continue;
      const fixed = tax ?? terms.tax;
      const name = freeName(plan, line.name, taken);
      taken.add(name);
      if (taxId !== host.taxId || account !== host.account) sources.push({ line: name, taxId, account });
      const key = `${PLAN_LINE}${extras.length + 1}`;
      const has = {
        ...(intro ? { intro } : {}),
        ...(discounts ? { discounts } : {}),
        ...(fixed ? { tax: fixed } : {}),
      };
      extras.push({
        quantity,
        extra: {
          ...{ key, name, price, currency: terms.currency, when: 'recurring', how: 'offered', min: 1 },
          ...{ max: Math.max(quantity, 1_000_000), byCustomer: false, has },
        },
      });
    }
  }
  return { extras, sources };
}

/** A name that no other line has: the line's own, or its plan's, or both, or else numbered. */
function freeName(plan: string, name: string | undefined, taken: ReadonlySet<string>): string {
  const both = name === undefined ? plan : `${plan}: ${name}`;
  const free = [name ?? plan, both].find((one) => !taken.has(one));
  if (free !== undefined) return free;
  for (let n = 2; ; n += 1) if (!taken.has(`${both} (${n})`)) return `${both} (${n})`;
}
