import { formatDay, toDay, type Day } from '../../core/dates/day.ts';
import { addDuration, parseDuration } from '../../core/dates/duration.ts';
import { formatDecimal, parseDecimal } from '../../core/money/decimal.ts';
import { DIGITS, less, minor, nearest, part, written } from './amounts.ts';
import { Rhythm } from './rhythm.ts';
import type { Amount, Charged, Running, Span } from './running.ts';
import type { Change, DayByDayPayment, Document, Ends, Line, Schedule, Tax } from './terms.ts';

/*
 * What terms come to, found one day after another: on each day it is asked whether it is a boundary, whether a change
 * falls on it, and what is charged then. Slow, and made another way than the calculation, whose dates and decimals alone
 * it shares, so that the two can be held against each other. It knows what the product agrees to for lives that are
 * altered; of anything else it says so.
 */

/**
 * The payments of terms up to a day, inclusive.
 * @param taxOn the tax of a day, where the terms leave it to the law
 */
export function dayByDay(
  terms: Document,
  until: string,
  taxOn?: (day: Day) => Tax | null,
): DayByDayPayment[] {
  return new Days(terms, taxOn).to(toDay(until));
}

class Days {
  private readonly given: DayByDayPayment[] = [];
  private credit = 0n;
  private lines: Running[];
  private list: Charged[] = [];
  private carried: Amount[] = [];
  private setupWaits: boolean;
  private fullPrices = 0;
  private ends: Ends | null;
  private rhythm: Rhythm;
  private stub: string;
  private schedule: Schedule;
  private running: Span | null = null;
  private atStub = false;
  private rest: { readonly to: Day; readonly whole: number } | null = null;
  private trialEnds: Day;
  private afterTrial: Schedule | null = null;
  private inTrial: boolean;
  private over = false;
  private day: Day;

  constructor(
    private readonly terms: Document,
    private readonly taxOn: ((day: Day) => Tax | null) | undefined,
  ) {
    if (terms.discounts !== undefined && terms.discounts.length > 0)
      throw new Error('Discounts of the whole document are not found day by day.');
    const starts = toDay(terms.starts);
    this.day = starts;
    this.lines = (terms.lines ?? []).map((line) => ({ line, full: 0, listed: 0 }));
    this.setupWaits = terms.setup !== undefined;
    this.ends = terms.ends ?? null;
    const trial = terms.trial && parseDuration(terms.trial.length);
    this.inTrial = trial !== undefined && trial !== null;
    this.trialEnds = trial ? addDuration(starts, trial) : starts;
    this.schedule = { interval: 'P1D', ...terms };
    this.stub = terms.stub ?? 'prorate';
    this.rhythm = new Rhythm(this.schedule, this.trialEnds, false);
    this.begin(this.schedule, this.trialEnds);
    if (terms.lines === undefined) this.over = true;
  }

  to(last: Day): DayByDayPayment[] {
    const dates = (this.terms.once ?? []).map(({ date }) => toDay(date));
    for (this.day = Math.min(this.day, ...dates); this.day <= last; this.day += 1) this.live();
    return this.given;
  }

  /** One day: what begins on it, what changes on it, and what is paid once. */
  private live(): void {
    const { day } = this;
    const once = (this.terms.once ?? [])
      .filter(({ date }) => toDay(date) === day)
      .map(({ amount, tax }): Amount => ({ amount: minor(amount), tax: tax ?? this.terms.tax ?? null }));
    let joined = false;
    if (day >= toDay(this.terms.starts) && !this.over) {
      const change = this.terms.changes?.find(({ date }) => toDay(date) === day);
      if (this.inTrial && day < this.trialEnds && this.untilDay() >= day) {
        if (change) this.changeInTrial(change);
        if (day === toDay(this.terms.starts)) joined = this.beginTrial(once);
      } else if (this.inTrial && this.untilDay() < Math.min(day, this.trialEnds)) this.over = true;
      else {
        if (this.inTrial) this.endTrial();
        joined = this.liveAfterTrial(change, once);
      }
    }
    if (once.length > 0 && !joined) this.pay('once', day, day, once);
  }

  private liveAfterTrial(change: Change | undefined, once: readonly Amount[]): boolean {
    const { day } = this;
    this.pass();
    if (this.over) return false;
    if (this.running !== null) {
      if (change) this.changeInside(change, this.running);
      // A schedule that begins anew is charged on the same day.
      if (this.running !== null || this.over) return false;
    } else if (change) {
      if (this.reached() || this.untilDay() < day) return this.stop();
      this.changeAtBoundary(change);
    }
    if (this.reached() || this.untilDay() < day) return this.stop();
    return this.open(once);
  }

  private stop(): false {
    this.over = true;
    return false;
  }

  /** Leaves what ran until today. */
  private pass(): void {
    const span = this.running;
    if (span === null) return;
    const { day } = this;
    const stopsAtUntil = span.charge === 'skipped' || this.terms.endStub === 'prorate';
    if (stopsAtUntil && this.untilDay() < day && (span.end >= day || span.rest)) {
      this.over = true;
      return;
    }
    const rest = span.rest !== null && span.rest.at < span.next ? span.rest : null;
    const end = rest?.at ?? span.end;
    if (day < end) return;
    if (this.reached() || this.untilDay() < end) {
      this.over = true;
      return;
    }
    this.running = null;
    if (rest !== null) {
      this.rest = { to: span.next, whole: rest.whole };
    } else if (end < span.next) {
      this.running = { ...span, charge: 'skipped', from: end, end: span.next, free: false, rest: null };
      this.list = [];
    } else {
      this.rest = null;
    }
  }

  private beginTrial(once: readonly Amount[]): boolean {
    const lines: Amount[] = [];
    const amount = minor(this.terms.trial?.amount);
    if (amount > 0n) lines.push({ amount, tax: this.terms.tax ?? null });
    if ((this.terms.setup?.when ?? 'start') === 'start') lines.push(...this.takeSetup());
    if (lines.length === 0) return false;
    const to = Math.min(this.trialEnds, this.untilDay() + 1);
    this.pay('trial', this.day, to, [...lines, ...once]);
    return true;
  }

  private changeInTrial(change: Change): void {
    if (change.ends !== undefined) this.ends = change.ends;
    if (change.lines) this.bring(change.lines);
    if (change.schedule) this.afterTrial = change.schedule;
    if (change.next !== undefined) this.trialEnds = toDay(change.next);
  }

  private endTrial(): void {
    this.inTrial = false;
    this.begin(this.afterTrial ?? this.schedule, this.trialEnds);
  }

  private begin(schedule: Schedule, on: Day): void {
    this.schedule = schedule;
    this.stub = schedule.stub ?? 'prorate';
    this.rhythm = new Rhythm(schedule, on, false);
    this.atStub = this.rhythm.first > on;
    this.rest = null;
    this.running = null;
  }

  private moved: { readonly to: Day; readonly prorates: boolean } | null = null;

  private changeAtBoundary(change: Change): void {
    if (change.ends !== undefined) this.ends = change.ends;
    if (change.lines) this.bring(change.lines);
    if (change.schedule) this.begin(change.schedule, this.day);
    if (change.next !== undefined)
      this.moved = { to: toDay(change.next), prorates: change.nextStub === 'prorate' };
  }

  private open(once: readonly Amount[]): boolean {
    const { day, rest, moved, atStub } = this;
    const pause = this.terms.pauses?.find(({ from, to }) => toDay(from) <= day && day < toDay(to));
    const restarts = pause?.resume === 'restart';
    const natural = rest?.to ?? (atStub ? this.rhythm.first : this.rhythm.after(day));
    const charge = pause ? 'skipped' : atStub && this.stub === 'free' ? 'free' : 'charged';
    const prorates = moved?.prorates === true && charge === 'charged';
    const next = moved?.to ?? (restarts ? toDay(pause?.to ?? '') : natural);
    const cut = this.terms.endStub === 'prorate' ? this.untilDay() + 1 : Infinity;
    const served = Math.min(next, cut);
    const stubWhole =
      atStub && (!prorates || this.stub !== 'full') ? natural - this.rhythm.before(natural) : null;
    const whole = rest?.whole ?? stubWhole ?? (prorates ? natural - day : next - day);
    const inFull =
      charge === 'charged' && !prorates && rest === null && (atStub ? this.stub === 'full' : cut >= next);
    const byDays =
      prorates || !(atStub || rest !== null)
        ? served - day
        : (cut < next ? Math.min(natural, cut) : natural) - day;
    const days = inFull ? whole : byDays;
    const leavesRest =
      pause?.rest === 'prorate' && !restarts && toDay(pause.to) < next && !(atStub && this.stub === 'free');
    if (moved !== null || restarts) this.rhythm = new Rhythm(this.schedule, next, true);
    const isStub = atStub || rest !== null || prorates;
    this.atStub = false;
    this.moved = null;
    this.rest = null;
    this.running = {
      ...{
        from: day,
        chargedTo: served,
        end: served < next && charge === 'charged' ? served : next,
        next,
        charge,
        days,
        whole,
      },
      ...{ full: inFull, free: moved !== null && !prorates },
      rest: leavesRest ? { at: toDay(pause.to), whole } : null,
    };
    this.list = [];
    if (charge !== 'charged') return false;
    const amounts = this.lines.map((one) => this.charge(one, days, whole, inFull));
    for (const one of this.lines) {
      one.listed += 1;
      if (inFull) one.full += 1;
    }
    if (inFull) this.fullPrices += 1;
    this.list = this.lines.map((of, i) => ({
      ...{ of, amount: amounts[i]?.amount ?? 0n, tax: amounts[i]?.tax ?? null, from: day, to: served },
    }));
    const lines = [...amounts, ...this.takeSetup(), ...this.carried, ...once];
    this.carried = [];
    this.pay(isStub ? 'stub' : 'period', day, served, lines);
    return true;
  }

  /** What a line is charged today: its first price, or days of its price, less its own discounts. */
  private charge(one: Running, days: number, whole: number, inFull: boolean): Amount {
    const { line } = one;
    const isFirst = inFull && line.intro !== undefined && one.full < line.intro.payments;
    const before = isFirst ? minor(line.intro.amount) : this.priceOf(line, days, whole, one.full);
    const own = (line.discounts ?? []).filter(({ payments = Infinity }) => one.listed < payments);
    return { amount: less(before, own, days, whole), tax: this.taxOf(line) };
  }

  private priceOf({ price, quantity = 1 }: Line, days: number, whole: number, chargedBefore: number): bigint {
    const places = 12;
    const toMinor = 10n ** BigInt(places - DIGITS);
    switch (price.scheme) {
      case 'flat':
      case 'each': {
        const one =
          parseDecimal(price.amount ?? '0', places) * (price.scheme === 'each' ? BigInt(quantity) : 1n);
        return nearest(one * BigInt(days), toMinor * BigInt(whole));
      }
      case 'instalments': {
        const [total, count] = [minor(price.total), BigInt(this.ends?.after ?? 1)];
        return total / count + (BigInt(chargedBefore) < total % count ? 1n : 0n);
      }
      default:
        throw new Error(`A price ${price.scheme} is not found day by day.`);
    }
  }

  /** Replaces the lines: which of the old ones each new one is, or null. */
  private bring(fresh: readonly Line[]): Running[] {
    const old = this.lines;
    const left = [...old];
    this.lines = fresh.map((line) => {
      const at = left.findIndex(
        (one) => written(one.line, this.taxOf(one.line)) === written(line, this.taxOf(line)),
      );
      const [same] = at < 0 ? [] : left.splice(at, 1);
      return { line, full: same?.full ?? 0, listed: same?.listed ?? 0, was: same } as Running;
    });
    return old;
  }

  private changeInside(change: Change, span: Span): void {
    const { day } = this;
    const cutBefore = span.end < span.next;
    if (change.ends !== undefined) this.ends = change.ends;
    const until = this.untilDay();
    const stops = span.charge === 'skipped' || this.terms.endStub === 'prorate';
    // What was charged cut stands to its end as charged; what follows it, once that ending is lost, is skipped.
    const end = cutBefore && until + 1 === span.chargedTo ? span.next : span.end;
    const stop = stops ? Math.min(end, until + 1) : end;
    const goesOn = !this.reached() && until >= day;
    const settle = span.charge === 'charged' && !span.free ? (change.settle ?? 'now') : 'none';
    const reschedules = change.schedule !== undefined && goesOn;
    const moves = change.next !== undefined && goesOn;
    const settled: Amount[] = [];
    const back = (entry: Charged, from: Day, to: Day) => {
      const [first, last] = [Math.max(from, entry.from), Math.min(to, entry.to)];
      if (last > first)
        settled.push({ amount: -part(entry.amount, last - first, entry.to - entry.from), tax: entry.tax });
    };
    const wouldBe = (one: Running): bigint => {
      const was = one.listed > 0;
      const isFirst = was && span.full && one.line.intro !== undefined && one.full <= one.line.intro.payments;
      const price = isFirst
        ? minor(one.line.intro.amount)
        : this.priceOf(one.line, span.full ? 1 : span.days, span.full ? 1 : span.whole, 0);
      const own = (one.line.discounts ?? []).filter(({ payments = Infinity }) =>
        was ? one.listed <= payments : payments === Infinity,
      );
      return less(price, own, span.full ? 1 : span.days, span.full ? 1 : span.whole);
    };
    const chargedDays = span.chargedTo - span.from;
    const chargeFor = (one: Running, from: Day, to: Day) => {
      const entry = {
        of: one,
        amount: part(wouldBe(one), to - from, chargedDays),
        from,
        to,
        tax: this.taxOf(one.line),
      };
      settled.push({ amount: entry.amount, tax: entry.tax });
      return entry;
    };
    if (reschedules && settle !== 'none') for (const entry of this.list) back(entry, day, stop);
    if (change.lines) {
      const old = this.bring(change.lines);
      if (!reschedules) this.settleLines(old, day, settle === 'none' ? null : { stop, back, chargeFor });
    }
    if (moves) {
      const to = toDay(change.next ?? '');
      if (change.nextStub === 'prorate' && settle !== 'none') {
        const stopThen = this.terms.endStub === 'prorate' ? Math.min(to, until + 1) : to;
        if (to > end && stopThen > end)
          this.list.push(...this.lines.map((one) => chargeFor(one, end, stopThen)));
        if (to < end) {
          for (const entry of this.list) back(entry, to, stop);
          this.list = this.list.flatMap((entry) => {
            if (entry.to <= to) return [entry];
            if (entry.from >= to) return [];
            const after = part(entry.amount, entry.to - to, entry.to - entry.from);
            return [{ ...entry, amount: entry.amount - after, to }];
          });
        }
        if (settled.length > 0) this.settleAs(settle, settled, stopThen);
      } else {
        span.free = true;
        if (settled.length > 0) this.settleAs(settle, settled, stop);
      }
      span.end = span.next = to;
      this.rhythm = new Rhythm(this.schedule, to, true);
      return;
    }
    if (settled.length > 0) this.settleAs(reschedules ? 'next' : settle, settled, stop);
    if (reschedules && change.schedule) this.begin(change.schedule, day);
    else if (span.charge === 'skipped' && this.reached()) this.over = true;
  }

  private settleLines(
    old: readonly Running[],
    day: Day,
    how: {
      readonly stop: Day;
      readonly back: (entry: Charged, from: Day, to: Day) => void;
      readonly chargeFor: (one: Running, from: Day, to: Day) => Charged;
    } | null,
  ): void {
    const unchanged = new Map<Running, Running>();
    for (const one of this.lines) {
      const was = old.find((before) => before === (one as Running & { was?: Running }).was);
      const same = was && (was.line.quantity ?? 1) === (one.line.quantity ?? 1);
      if (same && this.list.some((entry) => entry.of === was && entry.from <= day && day < entry.to))
        unchanged.set(was, one);
    }
    const now = (entry: Charged) => (entry.of === null ? undefined : unchanged.get(entry.of));
    if (how === null) {
      for (const entry of this.list) entry.of = now(entry) ?? null;
      return;
    }
    for (const entry of this.list) if (!now(entry)) how.back(entry, day, how.stop);
    const stays = this.list.filter(now).map((entry) => ({ ...entry, of: now(entry) ?? null }));
    const still = new Set(unchanged.values());
    const fresh = this.lines.filter((one) => !still.has(one)).map((one) => how.chargeFor(one, day, how.stop));
    this.list = [...stays, ...fresh];
  }

  private settleAs(settle: string, settled: readonly Amount[], to: Day): void {
    if (settle === 'next') throw new Error('Settling with the next payment is not found day by day.');
    this.pay('change', this.day, to, settled);
  }

  private takeSetup(): Amount[] {
    if (!this.setupWaits) return [];
    this.setupWaits = false;
    const amount = minor(this.terms.setup?.amount);
    return amount === 0n ? [] : [{ amount, tax: this.terms.tax ?? null }];
  }

  private taxOf(line: Line): Tax | null {
    return line.tax ?? this.terms.tax ?? null;
  }

  private reached(): boolean {
    return this.ends?.after !== undefined && this.fullPrices >= this.ends.after;
  }
  private untilDay(): Day {
    return this.ends?.until === undefined ? Infinity : toDay(this.ends.until);
  }

  private pay(kind: string, from: Day, to: Day, lines: readonly Amount[]): void {
    const groups = new Map<string, { tax: Tax | null; sum: bigint }>();
    for (const { amount, tax } of lines) {
      const own = tax ?? this.taxOn?.(this.day) ?? null;
      const key = own ? `${parseDecimal(own.rate, 4)} ${own.mode}` : '';
      const group = groups.get(key) ?? { tax: own, sum: 0n };
      groups.set(key, { tax: own, sum: group.sum + amount });
    }
    let total = 0n;
    for (const { tax, sum } of groups.values())
      total += sum + (tax?.mode === 'exclusive' ? nearest(sum * parseDecimal(tax.rate, 4), 1_000_000n) : 0n);
    let used = 0n;
    if (total < 0n) this.credit -= total;
    else {
      used = this.credit < total ? this.credit : total;
      this.credit -= used;
    }
    const say = (amount: bigint) => formatDecimal(amount, DIGITS);
    this.given.push({
      ...{ kind, from: formatDay(from), to: formatDay(to), lines: lines.map(({ amount }) => say(amount)) },
      ...{ total: say(total), credit: say(used) },
    });
  }
}
