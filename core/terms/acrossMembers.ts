import { LAST_DAY, parseDay, type Day } from '../dates/day.ts';
import { addDuration, parseDuration } from '../dates/duration.ts';
import { exponentOf } from '../money/currency.ts';
import { decimalsOf, parseDecimal } from '../money/decimal.ts';
import { boundariesFrom } from '../schedule/boundaries.ts';
import { firstAnchorMember } from './anchorFault.ts';
import { compileAnchor } from './compile.ts';
import type { Fault } from './fault.ts';
import { termsInOneShape } from './inOneShape.ts';
import { memberOf, pointerOf, within, type Path } from './path.ts';

import type { TermsAnchor } from './schema.ts';

type Json = Record<string, unknown>;
/**
 * What the members of terms must be to one another (rules 1 to 7 and the table of rules 10).
 *
 * The document may have any faults of its own; a rule speaks only where the members it looks at have none.
 * @param faults those already found in single members
 */
export function acrossMembers(given: Json, oneOff: boolean, faults: readonly Fault[]): Fault[] {
  const document = termsInOneShape(given) as unknown as Json;
  const found: Fault[] = [];
  const faulty = new Set(faults.map((fault) => fault.pointer));
  const atFault = (path: Path) => {
    if (faulty.size === 0) return false;
    const pointer = pointerOf(path);
    return faulty.has(pointer) || [...faulty].some((other) => other.startsWith(`${pointer}/`));
  };
  const refuse = (path: Path, detail: string) => {
    const pointer = pointerOf(path);
    if (!faulty.has(pointer)) found.push({ pointer, detail });
  };

  const exponent = typeof document.currency === 'string' ? exponentOf(document.currency) : null;
  if (exponent !== null) decimalsOfMoney(document, exponent, refuse);
  if (oneOff) return found;

  const lines = objects(document.lines);
  const starts = dateOf(document.starts);
  lines.forEach((line, i) => checkLine(line, within(LINES, i), refuse));
  if (!atFault(memberOf('interval')) && !atFault(memberOf('on')))
    checkAnchor(document.interval, document.on, memberOf('on'), refuse);
  if (starts !== null && !atFault(memberOf('ends')))
    checkUntil(document.ends, starts, within(memberOf('ends'), 'until'), refuse);
  if (starts !== null && !atFault(memberOf('trial'))) checkTrial(document.trial, starts, refuse);
  if (!atFault(memberOf('pauses'))) checkPauses(objects(document.pauses), refuse);
  checkChanges(document, starts, atFault, refuse);
  const shapeKnown = !['starts', 'trial', 'interval', 'on', 'stub'].some((member) =>
    atFault(memberOf(member)),
  );
  const endFaulty = atFault(memberOf('ends')) || found.some((fault) => fault.pointer.startsWith('/ends'));
  const anchored = !found.some(
    (fault) => fault.pointer.startsWith('/on') || fault.pointer.startsWith('/trial'),
  );
  checkInstalments(
    document,
    lines,
    { stub: shapeKnown && anchored && starts !== null, ends: !endFaulty },
    refuse,
  );
  return found;
}

type Refuse = (path: Path, detail: string) => void;

const LINES = memberOf('lines');
const CHANGES = memberOf('changes');

const isObject = (value: unknown): value is Json =>
  value !== null && typeof value === 'object' && !Array.isArray(value);
const objects = (value: unknown): Json[] =>
  Array.isArray(value) ? value.map((entry) => (isObject(entry) ? entry : {})) : [];
const dateOf = (value: unknown): Day | null => (typeof value === 'string' ? parseDay(value) : null);

/** The names under which a money amount stands; amounts of `each` and a tier's `each` are not money (rules 1). */
const MONEY_MEMBERS = new Set(['amount', 'min', 'max', 'total']);

function decimalsOfMoney(document: Json, exponent: number, refuse: Refuse): void {
  const visit = (value: unknown, path: Path | null) => {
    if (Array.isArray(value)) value.forEach((entry, i) => visit(entry, within(path, i)));
    else if (isObject(value)) {
      for (const key in value) {
        const member = value[key];
        const isUnit = key === 'amount' && value.scheme === 'each';
        if (typeof member === 'string' && MONEY_MEMBERS.has(key) && !isUnit) {
          const decimals = decimalsOf(member);
          if (decimals !== null && decimals > exponent) {
            const allowed = exponent === 0 ? 'no decimals' : `at most ${exponent} decimals`;
            refuse(within(path, key), `An amount in ${String(document.currency)} has ${allowed}.`);
          }
        } else if (member !== null && typeof member === 'object') visit(member, within(path, key));
      }
    }
  };
  visit(document, null);
}

function checkLine(line: Json, path: Path, refuse: Refuse): void {
  const price = isObject(line.price) ? line.price : {};
  if (Array.isArray(price.tiers)) {
    let below = 0;
    objects(price.tiers).forEach((tier, i, all) => {
      const limit = tier.to === null ? Infinity : tier.to;
      const at = within(path, 'price', 'tiers', i, 'to');
      if (typeof limit !== 'number') return;
      if (i === all.length - 1 && limit !== Infinity) {
        refuse(at, 'The last tier has no limit: give null.');
      } else if (limit <= below) {
        refuse(at, 'Each tier ends above the one before it, and only the last has no limit.');
      }
      below = limit;
    });
  }
  if (price.scheme === 'chosen') {
    const [amount, least, most] = [price.amount, price.min, price.max].map(exactly);
    const below =
      amount !== null && least !== null && amount !== undefined && least !== undefined && amount < least;
    const above =
      amount !== null && most !== null && amount !== undefined && most !== undefined && amount > most;
    if (below || above) refuse(within(path, 'price', 'amount'), 'The amount lies within min and max.');
  }
}

/** A decimal string at 12 places, or null where it is none. */
function exactly(text: unknown): bigint | null {
  if (typeof text !== 'string') return null;
  const decimals = decimalsOf(text);
  return decimals === null || decimals > 12 ? null : parseDecimal(text, 12);
}

/** Which anchors go with which interval: the table of rules 2. */
function checkAnchor(interval: unknown, on: unknown, path: Path, refuse: Refuse): void {
  const duration = typeof interval === 'string' ? parseDuration(interval) : null;
  if (duration === null || !isObject(on)) return;
  const allowed = {
    D: 'An interval of days takes no anchor; leave "on" out.',
    W: 'An interval of weeks takes { "weekday": … } alone.',
    M: 'An interval of months takes { "day": … } or { "nth": …, "weekday": … }, and P1M also { "days": [a, b] }.',
    Y: 'An interval of years takes { "month": …, "day": … }.',
  }[duration.unit];
  const fits = {
    D: false,
    W: 'weekday' in on && !('nth' in on),
    M: ('day' in on && !('month' in on)) || 'nth' in on || ('days' in on && duration.count === 1),
    Y: 'month' in on,
  }[duration.unit];
  if (!fits) {
    refuse(within(path, firstAnchorMember(on)), allowed);
  } else if (Array.isArray(on.days)) {
    const [a, b] = on.days as [number, number];
    if (a >= b || a > 27)
      refuse(within(path, 'days'), 'Give two days, the first before the second and at most 27.');
  }
}

function checkUntil(ends: unknown, starts: Day, path: Path, refuse: Refuse): void {
  const until = isObject(ends) ? dateOf(ends.until) : null;
  if (until !== null && until < starts) refuse(path, 'The last day is on or after the start.');
}

function trialEnd(trial: unknown, starts: Day): Day | null {
  const length = isObject(trial) && typeof trial.length === 'string' ? parseDuration(trial.length) : null;
  return length === null ? starts : addDuration(starts, length);
}

function checkTrial(trial: unknown, starts: Day, refuse: Refuse): void {
  const end = trialEnd(trial, starts);
  if (end !== null && end > LAST_DAY)
    refuse(within(memberOf('trial'), 'length'), 'The trial ends within the year 9999.');
}

function checkPauses(pauses: readonly Json[], refuse: Refuse): void {
  let before: Day | null = null;
  pauses.forEach((pause, i) => {
    if (pause.resume === 'restart' && pause.rest !== undefined)
      refuse(
        within(memberOf('pauses'), i, 'rest'),
        'A pause after which the boundaries restart leaves no rest; leave it out.',
      );
    const from = dateOf(pause.from);
    const to = dateOf(pause.to);
    if (from === null || to === null) return;
    if (to <= from) refuse(within(memberOf('pauses'), i, 'to'), 'A pause ends after the day it starts on.');
    if (before !== null && from < before) {
      refuse(
        within(memberOf('pauses'), i, 'from'),
        'Pauses are in the order of time and do not overlap; they may touch.',
      );
    }
    before = to;
  });
}

function checkChanges(
  document: Json,
  starts: Day | null,
  atFault: (path: Path) => boolean,
  refuse: Refuse,
): void {
  let before: Day | null = null;
  objects(document.changes).forEach((change, i) => {
    const path = within(CHANGES, i);
    objects(change.lines).forEach((line, j) => checkLine(line, within(path, 'lines', j), refuse));
    if (isObject(change.schedule) && !atFault(within(path, 'schedule'))) {
      checkAnchor(change.schedule.interval, change.schedule.on, within(path, 'schedule', 'on'), refuse);
    }
    if (!['lines', 'schedule', 'next', 'ends'].some((member) => change[member] !== undefined)) {
      if (!atFault(path)) refuse(path, 'A change has at least one of lines, schedule, next and ends.');
    }
    if (change.nextStub !== undefined && change.next === undefined)
      refuse(
        within(path, 'nextStub'),
        'Only a change that moves the next date says what becomes of its days.',
      );
    const date = dateOf(change.date);
    const until = isObject(change.ends) ? dateOf(change.ends.until) : null;
    if (until !== null && starts !== null && until < starts)
      refuse(within(path, 'ends', 'until'), 'The last day is on or after the start.');
    else if (until !== null && date !== null && until < date)
      refuse(within(path, 'ends', 'until'), 'The last day is on or after the date of the change.');
    if (date === null) return;
    if (starts !== null && date < starts) refuse(within(path, 'date'), 'A change is on or after the start.');
    else if (before !== null && date <= before) {
      refuse(within(path, 'date'), 'Changes are in the order of time, at most one a day.');
    }
    before = date;
    const next = dateOf(change.next);
    if (next !== null && next <= date)
      refuse(within(path, 'next'), 'The next date lies after the date of the change.');
    else if (change.next !== undefined && change.schedule !== undefined) {
      refuse(within(path, 'next'), 'A change moves the next date or begins a new schedule, not both.');
    }
  });
}

const isInstalments = (line: Json) => isObject(line.price) && line.price.scheme === 'instalments';

function checkInstalments(
  document: Json,
  lines: readonly Json[],
  known: { readonly stub: boolean; readonly ends: boolean },
  refuse: Refuse,
): void {
  if (!lines.some(isInstalments)) {
    objects(document.changes).forEach((change, i) =>
      objects(change.lines).forEach((line, j) => {
        if (isInstalments(line)) {
          refuse(
            within(memberOf('changes'), i, 'lines', j, 'price', 'scheme'),
            'A change cannot bring in instalments.',
          );
        }
      }),
    );
    return;
  }
  objects(document.pauses).forEach((pause, i) => {
    if (pause.rest === 'prorate')
      refuse(
        within(memberOf('pauses'), i, 'rest'),
        'Instalments are never charged for a part: what a pause leaves is free.',
      );
  });
  lines.forEach((line, i) => {
    if (isInstalments(line) && line.intro !== undefined) {
      refuse(within(memberOf('lines'), i, 'intro'), 'Instalments take no first price; leave it out.');
    }
  });
  if (Array.isArray(document.changes) && document.changes.length > 0) {
    refuse(memberOf('changes'), 'Instalments take no changes; leave them out.');
  }
  const ends = isObject(document.ends) ? document.ends : {};
  if (known.ends && ends.after === undefined) {
    refuse(within(memberOf('ends'), 'after'), 'Instalments need the number of payments: { "after": N }.');
  }
  if (known.stub && document.stub !== 'full' && document.stub !== 'free' && wouldHaveStub(document)) {
    refuse(
      memberOf('stub'),
      'Instalments that start off the billing day need a part period that is "full" or "free".',
    );
  }
}

function wouldHaveStub(document: Json): boolean {
  const starts = dateOf(document.starts);
  const interval = typeof document.interval === 'string' ? parseDuration(document.interval) : null;
  if (starts === null || interval === null) return false;
  const from = trialEnd(document.trial, starts) ?? starts;
  const anchor = document.on === undefined ? null : compileAnchor(document.on as TermsAnchor);
  return boundariesFrom(from, interval, anchor)(0) > from;
}
