import { LAST_DAY, type Day } from '../dates/day.ts';
import type { CompiledLine, CompiledOnce, CompiledTax, CompiledTerms } from '../agreed/terms.ts';
import { toWorkingDay } from '../dates/workingDay.ts';
import { leftOfLines, takeFrom, WHOLE, type OpenLine } from '../pricing/discountLines.ts';
import { fullPrice, partOfPrice } from '../pricing/listPrice.ts';
import type {
  ChangeEvent,
  StretchEvent,
  TimetableEvent,
  TimetablePosition,
  TrialEvent,
} from '../schedule/place.ts';
import { copyOfPosition, Timetable } from '../schedule/timetable.ts';
import type { ChargedList } from '../settlement/chargedList.ts';
import { LinesInForce } from '../settlement/linesInForce.ts';
import { settle, type SettledLine } from '../settlement/settle.ts';
import { RefusedTerms } from '../terms/fault.ts';
import { moneyOf } from './moneyOf.ts';
import { OF_LINES, type Payment, type PaymentKind, type PaymentLine, type PaymentMoney } from './payment.ts';
import {
  NO_LIST,
  readList,
  readSettled,
  VERSION,
  writeList,
  writeSettled,
  type WalkPosition,
} from './walkPosition.ts';

/**
 * Rules 4: walks the payments of terms one by one, in the order of rules 8. This is the one place where the timetable
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
  private readonly inForce: LinesInForce;
  private readonly discountUses: number[];
  private setupWaits: boolean;
  private once: number;
  private credit: bigint;
  private carried: SettledLine[];
  /** What was charged for the running stub or period; of the last payment, it is written down when asked for. */
  private list: ChargedList;
  private lastCharged: LastCharged | null = null;
  private taken: readonly number[] = [];
  private onceCharged: readonly bigint[] = [];
  /** The money of the last full period to which nothing one-time applied; the next such one is the same. */
  private steady: PaymentMoney | null = null;
  private steadyTaxes: readonly (CompiledTax | null)[] = [];
  private steadyTaken: readonly number[] = [];

  /** @throws RangeError where the place was written by a version that this one does not read */
  constructor(
    private readonly terms: CompiledTerms,
    position?: WalkPosition,
  ) {
    if (position !== undefined && position.version !== VERSION)
      throw new RangeError(`a place of version ${String(position.version)}, not ${VERSION}`);
    const { recurring } = terms;
    const at = position?.timetable;
    this.timetable = recurring && new Timetable(recurring, terms.starts, at ? copyOfPosition(at) : undefined);
    this.inForce = new LinesInForce(recurring, position?.lines);
    this.discountUses = [...(position?.discountUses ?? terms.discounts.map(() => 0))];
    this.setupWaits = position?.setupWaits ?? (recurring?.setup ?? null) !== null;
    this.once = position?.once ?? 0;
    this.credit = BigInt(position?.credit ?? 0);
    this.carried = (position?.carried ?? []).map(readSettled);
    this.list = position?.charged ? readList(position.charged) : NO_LIST;
  }

  /**
   * The place reached, to go on from later with the same terms or with changes added to them that lie beyond the
   * payments given so far. What waits has not been given, and is asked for again then.
   */
  position(): WalkPosition {
    const list = this.chargedList();
    return {
      version: VERSION,
      timetable:
        (this.waiting === null && !this.over ? this.timetable?.position() : this.beforeWaiting) ?? null,
      lines: this.inForce.position(),
      discountUses: [...this.discountUses],
      setupWaits: this.setupWaits,
      once: this.once,
      credit: this.credit.toString(),
      carried: this.carried.map(writeSettled),
      charged: list.entries.length === 0 ? null : writeList(list),
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
        if (event.charge === 'charged') return this.ofStretch(event);
        this.charge(null, NO_LIST);
        return null;
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
    this.inForce.count(event.full);
    const { taken, onceCharged } = this;
    this.lastCharged = { money, from: event.from, to: event.to, taken, once: onceCharged };
    return this.pay(event.kind, event.from, event.to, money);
  }

  private stretchMoney(event: StretchEvent): PaymentMoney {
    const lines: OpenLine[] = this.inForce.lines.map((line, i) => {
      const before = this.inForce.paymentsOf(i);
      const own = line.discounts;
      return {
        role: 'recurring',
        name: line.name,
        quantity: line.quantity,
        amount: this.priceOf(line, i, event),
        own: own.length === 0 ? own : own.filter(({ payments }) => before < payments),
        tax: line.tax,
      };
    });
    lines.push(...this.takeSetup());
    for (const { of, line, amount } of this.carried) {
      const { name, tax } = this.lineOf(of, line);
      lines.push({ role: 'carried', name, quantity: 1, amount, own: [], tax });
    }
    const parts = this.carried.map(({ part }) => part);
    this.carried = [];
    const once = this.takeOnce(event.from);
    lines.push(...once);
    this.onceCharged = once.map(({ amount }) => amount);
    const left = this.discounted(lines, event);
    if (parts.length === 0) return this.moneyOn(event.from, left);
    let carried = 0;
    return this.moneyOn(
      event.from,
      left.map((line) => (line.role === 'carried' ? { ...line, part: parts[carried++] ?? undefined } : line)),
    );
  }

  /** Rules 3: what a line costs in a stub or period: its first price, its list price, or a part of that. */
  private priceOf(line: CompiledLine, at: number, event: StretchEvent): bigint {
    if (!event.full) return partOfPrice(line.list, event.days, event.whole);
    const charged = this.inForce.fullPricesOf(at);
    if (line.intro !== null && charged < line.intro.payments) return line.intro.amount;
    return fullPrice(line.list, charged + 1);
  }

  /**
   * The money of a full period to which nothing one-time applies is computed once and used again until
   * the lines change.
   */
  private steadyMoney(event: StretchEvent): PaymentMoney | null {
    const onceToday = this.upcomingOnce()?.date === event.from;
    if (!event.full || this.setupWaits || this.carried.length > 0 || onceToday) return null;
    const taxes = this.lawTaxes(event.from);
    if (this.steady !== null && taxes.every((tax, i) => tax === this.steadyTaxes[i])) {
      this.taken = this.steadyTaken;
      this.onceCharged = [];
      return this.steady;
    }
    const { inForce } = this;
    const unsettled =
      inForce.lines.some(
        ({ intro, list, discounts }, i) =>
          list.kind === 'instalments' ||
          (intro !== null && inForce.fullPricesOf(i) < intro.payments) ||
          discounts.some(({ payments }) => payments !== Infinity && inForce.paymentsOf(i) < payments),
      ) ||
      this.terms.discounts.some(
        ({ payments }, i) => payments !== Infinity && (this.discountUses[i] ?? 0) < payments,
      );
    if (unsettled) return null;
    this.steady = this.stretchMoney(event);
    this.steadyTaxes = taxes;
    this.steadyTaken = this.taken;
    return this.steady;
  }

  /** Rules 7: brings in the lines of a change and settles it. */
  private ofChange(event: ChangeEvent): Payment | null {
    const list = this.chargedList();
    const kept = this.inForce.bring(event.change);
    if (kept !== null) this.steady = null;
    const settlement = settle(event, list, this.inForce.counted(), kept, this.terms.discounts);
    this.charge(null, settlement.list);
    if (settlement.lines.length === 0) return null;
    const carries = event.reschedules || event.settle === 'next';
    if (carries && this.timetable?.hasChargeAhead()) {
      this.carried.push(...settlement.lines);
      return null;
    }
    const lines = settlement.lines.map(({ of, line, amount, part }): PaymentLine => {
      const { name, tax } = this.lineOf(of, line);
      return { role: 'settled', name, quantity: 1, amount, discount: 0n, tax, part: part ?? undefined };
    });
    return this.pay('change', event.from, event.moves?.stop ?? event.to, this.moneyOn(event.from, lines));
  }

  /** The charged list of the running stub or period (rules 7). */
  private chargedList(): ChargedList {
    if (this.lastCharged === null) return this.list;
    const { money, from, to, taken, once } = this.lastCharged;
    const of = this.inForce.linesOf;
    const entries = money.lines.flatMap(({ role, amount }, line) =>
      role === 'recurring' ? [{ of, line, own: line, amount, from, to }] : [],
    );
    this.charge(null, { entries, taken, once });
    return this.list;
  }

  private charge(last: LastCharged | null, list: ChargedList): void {
    this.lastCharged = last;
    this.list = list;
  }

  private lineOf(of: number, line: number): { readonly name: string; readonly tax: CompiledTax | null } {
    return this.inForce.linesIn(of)[line] ?? { name: '', tax: null };
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
    const { taxOn, tax, taxedApart = [] } = this.terms;
    if (taxOn === undefined) return moneyOf(lines);
    const ofTheDay = taxOn(day);
    const ofLine = ({ role, name }: PaymentLine) =>
      OF_LINES.has(role) && taxedApart.includes(name) ? taxOn(day, name) : ofTheDay;
    return moneyOf(lines.map((line) => (line.tax === tax ? { ...line, tax: ofLine(line) } : line)));
  }

  /** What the law asks for on a day: of most lines, then of each that is taxed apart. */
  private lawTaxes(day: Day): readonly (CompiledTax | null)[] {
    const { taxOn, taxedApart } = this.terms;
    if (taxOn === undefined) return [];
    const most = taxOn(day);
    return taxedApart === undefined ? [most] : [most, ...taxedApart.map((line) => taxOn(day, line))];
  }

  /** Rules 5: the lines of a payment after its discounts, each of which is counted. */
  private discounted(
    lines: readonly OpenLine[],
    charged: { readonly days: number; readonly whole: number } = WHOLE,
  ): PaymentLine[] {
    const { discounts } = this.terms;
    this.taken = discounts.length === 0 ? NONE : takeFrom(discounts, lines, this.discountUses);
    const left = this.leftOf(lines, charged);
    const after: PaymentLine[] = [];
    for (const [at, { role, name, quantity, amount, tax }] of lines.entries()) {
      const rest = left?.[at] ?? amount;
      after.push({ role, name, quantity, amount: rest, discount: left === null ? 0n : amount - rest, tax });
    }
    return after;
  }

  /** What the discounts that are taken leave of each line, or null where there are none. */
  private leftOf(
    lines: readonly OpenLine[],
    charged: { readonly days: number; readonly whole: number },
  ): readonly bigint[] | null {
    const { taken } = this;
    if (taken.length === 0 && lines.every(({ own }) => own.length === 0)) return null;
    return leftOfLines(
      lines,
      taken.flatMap((i) => this.terms.discounts[i] ?? []),
      charged,
    );
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
}

/** The payment of the running stub or period, from which its charged list is written when it is asked for. */
interface LastCharged extends Pick<ChargedList, 'taken' | 'once'> {
  readonly money: PaymentMoney;
  readonly from: Day;
  readonly to: Day;
}

const NONE: readonly number[] = [];
