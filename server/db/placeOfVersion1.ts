/*
 * Stored places of version 1 as version 2 writes them (rules 7 of then and now). Plain data in and out, and nothing of
 * `core/`: what a release has stored is carried over as that release wrote it, whatever the calculation becomes.
 */

/** A place of version 1, as far as it is read here. */
export interface PlaceOfVersion1 {
  readonly timetable: {
    readonly phase: string;
    readonly fullPrices: number;
    readonly moveTo: number | null;
    readonly stretch: {
      readonly from: number;
      readonly to: number;
      readonly charge: 'charged' | 'free' | 'skipped';
      readonly proratedOf: number | null;
      readonly moved: boolean;
    } | null;
  } | null;
  readonly linesOf: number;
  readonly fullSinceLines: number;
  readonly paymentsSinceLines: number;
  readonly discountUses: readonly number[];
  readonly setupWaits: boolean;
  readonly once: number;
  readonly credit: string;
  readonly carried: readonly {
    readonly amount: string;
    readonly linesOf: number;
    readonly line: number;
  }[];
}

/** The terms of a subscription, as far as they are read here. */
export interface TermsOfPlace {
  readonly lines?: readonly unknown[];
  readonly changes?: readonly { readonly date: string; readonly lines?: readonly unknown[] }[];
  readonly discounts?: readonly { readonly payments?: number; readonly to?: string }[];
}

/** An invoice of the running stub or period, or of a change in it: days since 1970, amounts in minor units. */
export interface InvoiceOfPlace {
  readonly kind: 'stub' | 'period' | 'change';
  readonly from: number;
  readonly to: number;
  readonly lines: readonly { readonly amount: string }[];
}

/**
 * A place of version 1 in the form of version 2.
 *
 * What was charged for the running stub or period was not kept by version 1: it is read off its invoices. Where a
 * change was settled in it, by the rules of then, the lines that it charged stand for what was charged.
 *
 * @param invoices those of the running stub or period, in the order of their issue
 * @param counted how many stub and period invoices there are in all
 * @param dayOf a date as days since 1970
 */
export function placeOfVersion2(
  place: PlaceOfVersion1,
  terms: TermsOfPlace,
  invoices: readonly InvoiceOfPlace[],
  counted: number,
  dayOf: (date: string) => number,
): object {
  const { timetable, linesOf } = place;
  const linesIn = (of: number) => (of < 0 ? terms.lines : terms.changes?.[of]?.lines) ?? [];
  const came = {
    fullPrices: (timetable?.fullPrices ?? 0) - place.fullSinceLines,
    payments: 0,
  };
  const first = invoices.find(({ kind }) => kind !== 'change');
  const running = timetable?.stretch ?? null;
  return {
    version: 2,
    timetable: timetable && {
      ...timetable,
      moveTo: timetable.moveTo === null ? null : { day: timetable.moveTo, prorates: false },
      rest: null,
      stretch: running && stretchOf(running, first),
    },
    lines: {
      linesOf,
      fullPrices: timetable?.fullPrices ?? 0,
      payments: place.paymentsSinceLines,
      came: linesIn(linesOf).map(() => came),
    },
    discountUses: place.discountUses,
    setupWaits: place.setupWaits,
    once: place.once,
    credit: place.credit,
    carried: place.carried.map(({ amount, linesOf: of, line }) => ({ of, line, amount, part: null })),
    charged:
      running?.charge === 'charged'
        ? chargedOf(
            invoices.at(-1),
            { linesOf, linesIn, changes: terms.changes ?? [], dayOf },
            takenOf(terms, counted),
          )
        : null,
  };
}

function stretchOf(
  { from, to, charge, proratedOf, moved }: NonNullable<NonNullable<PlaceOfVersion1['timetable']>['stretch']>,
  invoice: InvoiceOfPlace | undefined,
) {
  const chargedTo = invoice?.to ?? to;
  const whole = proratedOf ?? chargedTo - from;
  return {
    from,
    chargedTo,
    end: to,
    to,
    charge,
    days: proratedOf === null ? whole : chargedTo - from,
    whole,
    full: charge === 'charged' && proratedOf === null,
    cut: charge === 'charged' && !moved && chargedTo < to,
    moved,
    rest: null,
  };
}

/** The discounts that the payment of the running stub or period took: those whose limit was not reached before it. */
function takenOf({ discounts = [] }: TermsOfPlace, counted: number): readonly number[] {
  return discounts.flatMap(({ payments = Infinity, to }, i) =>
    to !== 'once' && counted <= payments ? [i] : [],
  );
}

function chargedOf(
  invoice: InvoiceOfPlace | undefined,
  terms: {
    readonly linesOf: number;
    readonly linesIn: (of: number) => readonly unknown[];
    readonly changes: readonly { readonly date: string; readonly lines?: readonly unknown[] }[];
    readonly dayOf: (date: string) => number;
  },
  taken: readonly number[],
) {
  if (invoice === undefined) return null;
  const { from, to, kind, lines } = invoice;
  const { linesOf, linesIn, changes, dayOf } = terms;
  const then = changes.findLastIndex((change) => change.lines !== undefined && dayOf(change.date) <= from);
  const of = kind === 'change' ? linesOf : then;
  const count = linesIn(of).length;
  const own = kind === 'change' ? lines.slice(-count) : lines.slice(0, count);
  const entries = own.map(({ amount }, line) => ({
    of,
    line,
    own: of === linesOf ? line : null,
    amount,
    from,
    to,
  }));
  return { entries, taken, once: [] };
}
