import { LAST_DAY, type Day } from '../dates/day.ts';
import { toWorkingDay } from '../dates/workingDay.ts';
import { fullPrice, partOfPrice } from '../pricing/listPrice.ts';
import {
  Timetable,
  type ChangeEvent,
  type StretchEvent,
  type TimetableEvent,
  type TimetablePosition,
  type TrialEvent,
} from '../schedule/timetable.ts';
import type { CompiledLine, CompiledOnce, CompiledTax, CompiledTerms } from '../terms/compile.ts';
import { RefusedTerms } from '../terms/fault.ts';
import { discountLines, type OpenLine } from './discountLines.ts';
import type { Payment, PaymentKind, PaymentLine, PaymentMoney } from './payment.ts';
import { moneyOf } from './moneyOf.ts';

/** Where a walk stands between two payments: plain JSON data, to be stored and resumed from. */
export interface WalkPosition {
  readonly timetable: TimetablePosition | null;
  /** Whose lines are in force: −1 the terms', otherwise those of this change. */
  readonly linesOf: number;
  /** Full prices, and stub or period payments, since those lines came. */
  readonly fullSinceLines: number;
  readonly paymentsSinceLines: number;
  /** How many payments each discount of the document has been counted on. */
  readonly discountUses: readonly number[];
  readonly setupWaits: boolean;
  /** Next once amount not yet listed. */
  readonly once: number;
  /** Credit at hand, minor units. */
  readonly credit: string;
  /** Lines that a change carried over to the next stub or period payment. */
  readonly carried: readonly {
    readonly name: string;
    readonly amount: string;
    readonly linesOf: number;
    readonly line: number;
  }[];
}

interface Carried {
  readonly name: string;
  readonly amount: bigint;
  readonly linesOf: number;
  readonly line: number;
}

/**
 * Walks the payments of terms one by one, in the order of rules 8. This is the one place where the timetable
 * meets money: the listing of a whole subscription and the renewal of one boundary are both this walk.
 *
 * @example
 * const walk = new PaymentWalk(compileTerms(terms));
 * for (let payment = walk.next(); payment; payment = walk.next()) …
 */
export class PaymentWalk {
  private readonly timetable: Timetable | null;
  /** An event that has come but whose turn is after the once amounts before it, and the place before it came. */
  private waiting: TimetableEvent | null = null;
  private beforeWaiting: TimetablePosition | null = null;
  /** Nothing recurs any more and once amounts were left then: its end, too, may yet be taken back by a change. */
  private over = false;
  private linesOf: number;
  private lines: readonly CompiledLine[];
  private fullSinceLines: number;
  private paymentsSinceLines: number;
  private readonly discountUses: number[];
  private setupWaits: boolean;
  private once: number;
  private credit: bigint;
  private carried: Carried[];
  /** The money of the last full period to which nothing one-time applied; the next such one is the same. */
  private steady: PaymentMoney | null = null;
  private steadyTax: CompiledTax | null = null;

  constructor(
    private readonly terms: CompiledTerms,
    position?: WalkPosition,
  ) {
    const { recurring } = terms;
    this.timetable = recurring && new Timetable(recurring, terms.starts, copyOf(position?.timetable));
    this.linesOf = position?.linesOf ?? -1;
    this.lines = this.linesIn(this.linesOf);
    this.fullSinceLines = position?.fullSinceLines ?? 0;
    this.paymentsSinceLines = position?.paymentsSinceLines ?? 0;
    this.discountUses = [...(position?.discountUses ?? terms.discounts.map(() => 0))];
    this.setupWaits = position?.setupWaits ?? (recurring?.setup ?? null) !== null;
    this.once = position?.once ?? 0;
    this.credit = BigInt(position?.credit ?? 0);
    this.carried = (position?.carried ?? []).map((line) => ({ ...line, amount: BigInt(line.amount) }));
  }

  /**
   * The place reached, to go on from later with the same terms or with changes added to them that lie beyond the
   * payments given so far. What waits has not been given, and is asked for again then.
   */
  position(): WalkPosition {
    return {
      timetable:
        (this.waiting === null && !this.over ? this.timetable?.position() : this.beforeWaiting) ?? null,
      linesOf: this.linesOf,
      fullSinceLines: this.fullSinceLines,
      paymentsSinceLines: this.paymentsSinceLines,
      discountUses: [...this.discountUses],
      setupWaits: this.setupWaits,
      once: this.once,
      credit: this.credit.toString(),
      carried: this.carried.map((line) => ({ ...line, amount: line.amount.toString() })),
    };
  }

  /** The next payment, or null when there is none any more. */
  next(): Payment | null {
    for (;;) {
      const once = this.upcomingOnce();
      if (this.waiting === null && this.timetable !== null && !this.over) {
        if (once !== null) this.beforeWaiting = this.timetable.position();
        this.waiting = this.timetable.next();
        this.over = once !== null && this.waiting === null;
      }
      const event = this.waiting;
      if (once !== null && (event === null || once.date < event.from)) return this.onceAlone(once.date);
      if (event === null) return null;
      this.waiting = null;
      const payment = this.paymentOf(event);
      if (payment !== null) return payment;
    }
  }

  private paymentOf(event: TimetableEvent): Payment | null {
    switch (event.type) {
      case 'trial':
        return this.ofTrial(event);
      case 'stretch':
        return event.charge === 'charged' ? this.ofStretch(event) : null;
      case 'change':
        return this.ofChange(event);
    }
  }

  private ofTrial(event: TrialEvent): Payment | null {
    const { recurring } = this.terms;
    const lines: OpenLine[] = [];
    const amount = recurring?.trial?.amount ?? 0n;
    if (amount !== 0n) lines.push(this.plainLine('trial', 'Trial', amount));
    if (recurring?.setup?.when === 'start') lines.push(...this.takeSetup());
    if (lines.length === 0) return null;
    return this.pay(
      'trial',
      event.from,
      event.to,
      this.moneyOn(event.from, this.discounted([...lines, ...this.takeOnce(event.from)])),
    );
  }

  private ofStretch(event: StretchEvent): Payment {
    const money = this.steadyMoney(event) ?? this.stretchMoney(event);
    this.paymentsSinceLines += 1;
    if (event.full) this.fullSinceLines += 1;
    return this.pay(event.kind, event.from, event.to, money);
  }

  private stretchMoney(event: StretchEvent): PaymentMoney {
    const lines: OpenLine[] = this.lines.map((line) => ({
      role: 'recurring',
      name: line.name,
      quantity: line.quantity,
      amount: this.priceOf(line, event),
      own: line.discounts,
      tax: line.tax,
    }));
    lines.push(...this.takeSetup());
    for (const { name, amount, linesOf, line } of this.carried) {
      const tax = this.linesIn(linesOf)[line]?.tax ?? null;
      lines.push({ role: 'carried', name, quantity: 1, amount, own: [], tax });
    }
    this.carried = [];
    lines.push(...this.takeOnce(event.from));
    return this.moneyOn(event.from, this.discounted(lines));
  }

  /** What a line costs in a stretch: its first price, its list price, or a part of that (rules 3). */
  private priceOf(line: CompiledLine, event: StretchEvent): bigint {
    if (!event.full) return partOfPrice(line.list, event.days, event.whole);
    if (line.intro !== null && this.fullSinceLines < line.intro.payments) return line.intro.amount;
    return fullPrice(line.list, this.fullSinceLines + 1);
  }

  /**
   * The money of a full period to which nothing one-time applies is computed once and used again until
   * the lines change.
   */
  private steadyMoney(event: StretchEvent): PaymentMoney | null {
    const onceToday = this.upcomingOnce()?.date === event.from;
    if (!event.full || this.setupWaits || this.carried.length > 0 || onceToday) return null;
    const tax = this.terms.taxOn?.(event.from) ?? null;
    if (this.steady !== null && this.steadyTax === tax) return this.steady;
    const unsettled =
      this.lines.some(
        ({ intro, list, discounts }) =>
          list.kind === 'instalments' ||
          (intro !== null && this.fullSinceLines < intro.payments) ||
          discounts.some(({ payments }) => payments !== Infinity && this.paymentsSinceLines < payments),
      ) ||
      this.terms.discounts.some(
        ({ payments }, i) => payments !== Infinity && (this.discountUses[i] ?? 0) < payments,
      );
    if (unsettled) return null;
    this.steady = this.stretchMoney(event);
    this.steadyTax = tax;
    return this.steady;
  }

  /** Settles a change (rules 7) and brings in its lines. */
  private ofChange(event: ChangeEvent): Payment | null {
    const old = this.lines;
    const oldOf = this.linesOf;
    const fresh = this.terms.recurring?.changes[event.change]?.lines ?? null;
    if (fresh !== null) {
      this.linesOf = event.change;
      this.lines = fresh;
      this.fullSinceLines = 0;
      this.paymentsSinceLines = 0;
      this.steady = null;
    }
    if (event.settle === 'none') return null;
    const part = (lines: readonly CompiledLine[], linesOf: number, sign: bigint): Carried[] =>
      lines.map((line, i) => ({
        name: line.name,
        amount: sign * partOfPrice(line.list, event.days, event.whole),
        linesOf,
        line: i,
      }));
    const settled = [
      ...part(old, oldOf, -1n),
      ...(event.reschedules || fresh === null ? [] : part(fresh, event.change, 1n)),
    ];
    const carries = event.reschedules || event.settle === 'next';
    if (carries && this.timetable?.hasChargeAhead()) {
      this.carried.push(...settled);
      return null;
    }
    const lines = settled.map(({ name, amount, linesOf, line }): PaymentLine => {
      const tax = this.linesIn(linesOf)[line]?.tax ?? null;
      return { role: 'settled', name, quantity: 1, amount, discount: 0n, tax };
    });
    return this.pay('change', event.from, event.to, this.moneyOn(event.from, lines));
  }

  /**
   * Walks on to the end of service without listing: the first day not served, or null if it never ends. The walk
   * is spent by it.
   */
  runToEnd(): { readonly end: Day | null; readonly exhausted: boolean } {
    return this.timetable?.runToEnd() ?? { end: this.terms.once.at(-1)?.date ?? null, exhausted: false };
  }

  private upcomingOnce(): CompiledOnce | null {
    const { once } = this.terms;
    return this.once < once.length ? (once[this.once] ?? null) : null;
  }

  private onceAlone(date: Day): Payment {
    return this.pay('once', date, date, this.moneyOn(date, this.discounted(this.takeOnce(date))));
  }

  private takeOnce(date: Day): OpenLine[] {
    const lines: OpenLine[] = [];
    for (let entry = this.upcomingOnce(); entry?.date === date; entry = this.upcomingOnce()) {
      lines.push({
        role: 'once',
        name: entry.name,
        quantity: 1,
        amount: entry.amount,
        own: [],
        tax: entry.tax,
      });
      this.once += 1;
    }
    return lines;
  }

  /** The set-up line, the first time it is asked for and if it is not zero. */
  private takeSetup(): OpenLine[] {
    const amount = this.setupWaits ? (this.terms.recurring?.setup?.amount ?? 0n) : 0n;
    this.setupWaits = false;
    return amount === 0n ? [] : [this.plainLine('setup', 'Set-up', amount)];
  }

  private plainLine(role: 'trial' | 'setup', name: string, amount: bigint): OpenLine {
    return { role, name, quantity: 1, amount, own: [], tax: this.terms.tax };
  }

  /** Sums lines with the tax of the day, where the terms leave it to the law. */
  private moneyOn(day: Day, lines: readonly PaymentLine[]): PaymentMoney {
    const { taxOn, tax } = this.terms;
    if (taxOn === undefined) return moneyOf(lines);
    const ofTheDay = taxOn(day);
    return moneyOf(lines.map((line) => (line.tax === tax ? { ...line, tax: ofTheDay } : line)));
  }

  private discounted(lines: readonly OpenLine[]): PaymentLine[] {
    return discountLines(lines, this.terms.discounts, this.paymentsSinceLines, this.discountUses);
  }

  private pay(kind: PaymentKind, from: Day, to: Day, money: PaymentMoney): Payment {
    let credit = 0n;
    let due = money.total;
    if (due < 0n) {
      this.credit -= due;
      due = 0n;
    } else if (this.credit > 0n) {
      credit = this.credit < due ? this.credit : due;
      this.credit -= credit;
      due -= credit;
    }
    return { kind, from, to, dueOn: this.dueOn(from), money, credit, due };
  }

  private dueOn(boundary: Day): Day {
    const { paymentTerm, workingDays } = this.terms;
    const due = workingDays ? toWorkingDay(boundary + paymentTerm, workingDays) : boundary + paymentTerm;
    if (due > LAST_DAY) {
      throw new RefusedTerms([{ pointer: '/terms', detail: 'Every due date lies within the year 9999.' }]);
    }
    return due;
  }

  private linesIn(linesOf: number): readonly CompiledLine[] {
    const { recurring } = this.terms;
    const ofChange = linesOf < 0 ? null : recurring?.changes[linesOf]?.lines;
    return ofChange ?? recurring?.lines ?? [];
  }
}

function copyOf(position: TimetablePosition | null | undefined): TimetablePosition | undefined {
  return position ? { ...position, stretch: position.stretch && { ...position.stretch } } : undefined;
}
