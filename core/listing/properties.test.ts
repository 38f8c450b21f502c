import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { formatDay, toDay } from '../dates/day.ts';
import { parseDecimal } from '../money/decimal.ts';
import { minorDigits } from '../money/currency.ts';
import { Timetable } from '../schedule/timetable.ts';
import { anyTerms } from '../../testing/anyTerms.ts';
import { checkTerms } from '../terms/check.ts';
import { compileTerms } from '../terms/compile.ts';
import type { Terms } from '../terms/schema.ts';
import { listPayments, paymentsOf } from './listPayments.ts';
import { nextPayment } from './nextPayment.ts';
import { OutputWriter } from './output.ts';

const COUNT = 30;
const minor = (amount: string) => {
  const [sign, digits] = amount.startsWith('-') ? [-1n, amount.slice(1)] : [1n, amount];
  return sign * parseDecimal(digits, minorDigits('GBP'));
};
const check = (property: (terms: Terms) => void, runs = 300) =>
  fc.assert(fc.property(anyTerms, property), { numRuns: runs, seed: 20_270_104 });

describe('for any terms', () => {
  test('stretches tile the time from the trial’s end to the end, without gap or overlap', () =>
    check((terms) => {
      const compiled = compileTerms(terms);
      if (compiled.recurring === null) return;
      const timetable = new Timetable(compiled.recurring, compiled.starts);
      let reached: number | null = null;
      for (let n = 0, event = timetable.next(); event !== null && n < 60; event = timetable.next(), n += 1) {
        if (event.type === 'trial') reached = null;
        if (event.type !== 'stretch') continue;
        const { stretch } = timetable.position();
        expect(event.from).toBeLessThan(event.to);
        // A stretch begins where the one before it ended, unless a change cut that one short or moved its end.
        if (reached !== null && 'changes' in terms && !terms.changes?.length)
          expect(event.from).toBe(reached);
        reached = stretch?.rest?.at ?? stretch?.to ?? null;
      }
    }));

  test('stepping, with the state stored in between, gives the listing', () =>
    check((terms) => {
      const { payments } = listPayments(terms, { count: COUNT });
      const writer = new OutputWriter(2);
      const stepped = [];
      for (let step = nextPayment(terms); step !== null && stepped.length < COUNT;) {
        stepped.push(writer.write(step.payment));
        step = nextPayment(terms, JSON.parse(JSON.stringify(step.after)));
      }
      expect(stepped).toEqual(payments);
    }));

  test('a change that is added beyond what was stepped over takes effect as if it had always been there', () =>
    check((terms) => {
      const changes = 'changes' in terms ? (terms.changes ?? []) : [];
      const [only] = changes;
      if (changes.length !== 1 || only === undefined) return;
      const writer = new OutputWriter(2);
      const stepped = [];
      let step = nextPayment({ ...terms, changes: [] } as Terms);
      let state: Parameters<typeof nextPayment>[1];
      for (
        ;
        step !== null && formatDay(step.payment.from) < only.date;
        step = nextPayment({ ...terms, changes: [] } as Terms, state)
      ) {
        stepped.push(writer.write(step.payment));
        state = step.after;
      }
      for (
        step = nextPayment(terms, state);
        step !== null && stepped.length < COUNT;
        step = nextPayment(terms, step.after)
      ) {
        stepped.push(writer.write(step.payment));
      }
      const { payments } = listPayments(terms, { count: COUNT });
      expect(stepped.slice(0, payments.length)).toEqual(payments);
    }, 800));

  test('a horizon cuts the listing and never changes what is before it', () =>
    check((terms) => {
      const whole = listPayments(terms, { count: COUNT });
      const part = listPayments(terms, { count: 7 });
      expect(part.payments).toEqual(whole.payments.slice(0, 7));
      expect(part.ends).toBe(whole.ends);
      const until = whole.payments.at(4)?.from;
      if (until === undefined) return;
      const expected = whole.payments.filter(({ from }) => from <= until);
      if (expected.length < COUNT) expect(listPayments(terms, { until }).payments).toEqual(expected);
    }));

  test('a payment adds up: net and tax are its total, credit and due what is not negative of it', () =>
    check((terms) => {
      let credit = 0n;
      for (const payment of listPayments(terms, { count: COUNT }).payments) {
        const total = minor(payment.total);
        expect(minor(payment.net) + minor(payment.tax)).toBe(total);
        expect(minor(payment.due)).toBe((total > 0n ? total : 0n) - minor(payment.credit));
        credit += (total < 0n ? -total : 0n) - minor(payment.credit);
        expect(credit).toBeGreaterThanOrEqual(0n);
      }
    }));

  test('a discount never exceeds its line, and what is taken off is told', () =>
    check((terms) => {
      for (const { money } of paymentsOf(compileTerms(terms), { count: COUNT })) {
        for (const { role, amount, discount } of money.lines) {
          expect(discount).toBeGreaterThanOrEqual(0n);
          if (role === 'recurring' || role === 'once') expect(amount).toBeGreaterThanOrEqual(0n);
          else expect(discount).toBe(0n);
        }
        expect(money.discount).toBe(money.lines.reduce((sum, one) => sum + one.discount, 0n));
      }
    }));

  test('shifting every date by 400 years shifts every result and changes nothing else', () =>
    check((terms) => {
      const dates = /"(\d{4}-\d{2}-\d{2})"/g;
      const later = (text: string) =>
        text.replace(dates, (_, day: string) => `"${formatDay(toDay(day) + 146_097)}"`);
      const shifted = checkTerms(JSON.parse(later(JSON.stringify(terms))));
      if (!shifted.ok) throw new Error('refused after the shift');
      const expected = later(JSON.stringify(listPayments(terms, { count: COUNT })));
      expect(JSON.stringify(listPayments(shifted.terms, { count: COUNT }))).toBe(expected);
    }));
});

test('instalments add up to their total, whatever the total, the number and the currency', () =>
  fc.assert(
    fc.property(fc.bigInt({ min: 0n, max: 10n ** 12n }), fc.integer({ min: 1, max: 99 }), (total, after) => {
      const terms = checkTerms({
        currency: 'JPY',
        starts: '2027-01-31',
        lines: [{ price: { scheme: 'instalments', total: String(total) } }],
        interval: 'P1M',
        ends: { after },
      });
      if (!terms.ok) throw new Error(JSON.stringify(terms.faults));
      const { payments, sum } = listPayments(terms.terms, null);
      expect(sum).toBe(String(total));
      expect(payments).toHaveLength(after);
      const spread = payments.map(({ due }) => BigInt(due)).sort((a, b) => (a < b ? -1 : 1));
      expect((spread.at(-1) ?? 0n) - (spread[0] ?? 0n)).toBeLessThanOrEqual(1n);
    }),
  ));

test('money out of a change plus what is left is money in, within one minor unit a line', () =>
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 99_999 }), fc.integer({ min: 1, max: 29 }), (pence, day) => {
      const amount = (pence / 100).toFixed(2);
      const changed = checkTerms({
        currency: 'GBP',
        starts: '2027-04-01',
        lines: [{ price: { scheme: 'flat', amount } }],
        interval: 'P1M',
        changes: [
          { date: formatDay(toDay('2027-04-01') + day), lines: [{ price: { scheme: 'flat', amount: '0' } }] },
        ],
      });
      const left = checkTerms({
        currency: 'GBP',
        starts: '2027-04-01',
        lines: [{ price: { scheme: 'flat', amount } }],
        interval: 'P1M',
        ends: { until: formatDay(toDay('2027-04-01') + day - 1) },
        endStub: 'prorate',
      });
      if (!changed.ok || !left.ok) throw new Error('refused');
      const back = -minor(listPayments(changed.terms, { count: 2 }).payments[1]?.lines[0] ?? '0');
      const used = minor(listPayments(left.terms, null).payments[0]?.total ?? '0');
      const off = back + used - BigInt(pence);
      expect(off >= -1n && off <= 1n).toBe(true);
    }),
  ));
