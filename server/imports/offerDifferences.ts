import { isDeepStrictEqual } from 'node:util';
import { sayRate, type SayableTerms } from '../../core/words/sayRate.ts';
import type { OfferDifference } from './messages.ts';
import type { FileCard, FileDiscount, FilePlan, FileRate, FileVariant, PlanFile } from './planFile.ts';

type Members = OfferDifference['members'];

/**
 * What of a file is new, the same, or differs from what is stored, member by member. What the file leaves out is no
 * difference: it stays as it is.
 */
export function offerDifferences(stored: Required<PlanFile>, wanted: PlanFile): OfferDifference[] {
  const found: OfferDifference[] = [];
  const note = (what: string, members: Members | null, isNew: OfferDifference['how']) => {
    const how = members === null ? isNew : members.length === 0 ? 'same' : 'differs';
    found.push({ what, how, members: members ?? [] });
  };
  for (const plan of wanted.plans) {
    const there = stored.plans.find(({ key }) => key === plan.key);
    const ofPlan = there ? planMembers(there, plan) : [];
    if (ofPlan.length > 0) note(plan.name, ofPlan, 'new plan');
    for (const rate of plan.rates) {
      const known = there?.rates.find(({ key }) => key === rate.key);
      note(
        `${plan.name}, ${rate.name}`,
        known ? rateMembers(known, rate) : null,
        there ? 'new rate' : 'new plan',
      );
    }
    for (const variant of plan.variants ?? []) {
      const known = there?.variants?.find(({ key }) => key === variant.key);
      note(
        `${plan.name}, variant ${variant.name}`,
        known ? variantMembers(known, variant) : null,
        'new variant',
      );
    }
  }
  for (const card of wanted.rateCards ?? []) {
    const known = stored.rateCards.find(({ key }) => key === card.key);
    note(`Rate card ${card.name}`, known ? cardMembers(known, card) : null, 'new rate card');
  }
  for (const discount of wanted.discounts ?? []) {
    const known = discountNamed(stored, discount.value.name);
    note(`Discount ${discount.value.name}`, known ? discountMembers(known, discount) : null, 'new discount');
  }
  return found;
}

/** The discount of a name, whatever its capitals: discounts have no other key. */
export function discountNamed(stored: Required<PlanFile>, name: string): FileDiscount | undefined {
  return stored.discounts.find(({ value }) => value.name.toLowerCase() === name.toLowerCase());
}

/** In what a plan itself differs from the file. */
export function planMembers(stored: FilePlan, wanted: FilePlan): Members {
  const facts = ({ key: _key, rates: _rates, variants: _variants, ...rest }: FilePlan) => rest;
  return membersThatDiffer(facts(stored), facts(wanted));
}

/** In what a rate differs from the file; where its price reads otherwise, first in words. */
export function rateMembers(stored: FileRate, wanted: FileRate): Members {
  // The tax that the terms name and the one chosen for those that name none are two things of one name.
  const facts = ({ name, tax, options }: FileRate) => ({ name, 'tax chosen': tax, ...options });
  const members = [
    ...membersThatDiffer(stored.terms, wanted.terms),
    ...membersThatDiffer(facts(stored), facts(wanted)),
  ];
  // Of terms, what the file leaves out is not there.
  const gone = Object.keys(stored.terms)
    .filter((member) => !(member in wanted.terms))
    .map((member) => ({ member, stored: JSON.stringify(stored.terms[member]), file: '' }));
  const [now, then] = [stored, wanted].map(({ terms }) => sayRate(terms as unknown as SayableTerms));
  const inWords = now === then ? [] : [{ member: 'price', stored: now ?? '', file: then ?? '' }];
  return members.length + gone.length === 0 ? [] : [...inWords, ...members, ...gone];
}

/** In what a variant differs from the file. */
export function variantMembers(stored: FileVariant, wanted: FileVariant): Members {
  const sorted = (variant: FileVariant) => ({ ...variant, key: '', rates: variant.rates.toSorted() });
  return membersThatDiffer(sorted(stored), sorted(wanted));
}

/** In what a rate card differs from the file, whatever the order of its prices. */
export function cardMembers(stored: FileCard, wanted: FileCard): Members {
  const sorted = (card: FileCard) => ({
    ...card,
    key: '',
    prices: card.prices.toSorted((a, b) => (placeOf(a) < placeOf(b) ? -1 : 1)),
  });
  return membersThatDiffer(sorted(stored), sorted(wanted));
}

const placeOf = ({ plan, rate, variant = '' }: FileCard['prices'][number]) => `${plan}/${rate}/${variant}`;

/** In what a discount differs from the file: codes that the file does not name stay good, and are no difference. */
export function discountMembers(stored: FileDiscount, wanted: FileDiscount): Members {
  const of = ({ value, for: keys }: FileDiscount) => ({
    ...value,
    plans: keys.toSorted(),
    name: value.name.toLowerCase(),
  });
  const newCodes = wanted.codes.filter((code) => !stored.codes.includes(code));
  const codes = newCodes.length === 0 ? [] : [{ member: 'codes', stored: '', file: newCodes.join(', ') }];
  return [...membersThatDiffer(of(stored), of(wanted)), ...codes];
}

function membersThatDiffer(stored: object, wanted: object): Members {
  const [now, then] = [stored, wanted].map(
    (of) => JSON.parse(JSON.stringify(of)) as Record<string, unknown>,
  ) as [Record<string, unknown>, Record<string, unknown>];
  return Object.keys(then).flatMap((member) => partsThatDiffer([member], now[member], then[member]));
}

/** The smallest parts in which two values differ, each with the way to it: 'lines 1, price, amount'. */
function partsThatDiffer(path: readonly string[], now: unknown, then: unknown): Members {
  if (isDeepStrictEqual(now, then)) return [];
  if (Array.isArray(now) && Array.isArray(then)) {
    const [last = '', ...before] = path.toReversed();
    return Array.from({ length: Math.max(now.length, then.length) }, (_, i) =>
      partsThatDiffer([...before.toReversed(), `${last} ${i + 1}`], now[i], then[i]),
    ).flat();
  }
  if (isRecord(now) && isRecord(then))
    return [...new Set([...Object.keys(now), ...Object.keys(then)])].flatMap((name) =>
      partsThatDiffer([...path, name], now[name], then[name]),
    );
  return [{ member: path.join(', '), stored: said(now), file: said(then) }];
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const said = (value: unknown) => (typeof value === 'string' ? value : (JSON.stringify(value) ?? ''));
