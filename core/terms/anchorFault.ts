import { WEEKDAYS } from '../dates/weekday.ts';

/** Members of `on` in the order in which a fault of the whole is laid to them (rules 10). */
const MEMBERS = ['month', 'nth', 'day', 'days', 'weekday'] as const;

const SHAPES =
  'An anchor is one of { "day": 1..31 or "last" }, { "month": 1..12, "day": 1..31 }, { "days": [a, b] }, ' +
  '{ "weekday": "mon".."sun" } and { "nth": 1..4 or "last", "weekday": "mon".."sun" }.';

/** Where in an anchor that has none of the allowed shapes the fault stands, and what is allowed. */
export function anchorFault(on: unknown): { path: string[]; detail: string } {
  if (on === null || typeof on !== 'object' || Array.isArray(on)) return { path: [], detail: SHAPES };
  const value = on as Record<string, unknown>;
  const unknown = Object.keys(value).find((key) => !(MEMBERS as readonly string[]).includes(key));
  if (unknown !== undefined)
    return { path: [unknown], detail: `There is no member "${unknown}" here; leave it out.` };
  const wrong = MEMBERS.filter((member) => member in value && !isGood[member](value[member]));
  const first = wrong[0] ?? MEMBERS.find((member) => member in value);
  return { path: first === undefined ? [] : [first], detail: SHAPES };
}

/** The first member of an anchor that is there: where a pairing that does not fit is reported. */
export function firstAnchorMember(on: object): string {
  return MEMBERS.find((member) => member in on) ?? '';
}

const whole = (value: unknown, least: number, most: number) =>
  Number.isInteger(value) && (value as number) >= least && (value as number) <= most;

const isGood: Record<(typeof MEMBERS)[number], (value: unknown) => boolean> = {
  month: (value) => whole(value, 1, 12),
  nth: (value) => value === 'last' || whole(value, 1, 4),
  day: (value) => value === 'last' || whole(value, 1, 31),
  days: (value) => Array.isArray(value) && value.length === 2 && value.every((day) => whole(day, 1, 31)),
  weekday: (value) => (WEEKDAYS as readonly unknown[]).includes(value),
};
