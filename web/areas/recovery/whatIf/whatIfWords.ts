import { sayFigure } from '../../../../core/words/amount.ts';
import type { Estimate, Replayed } from '../../../../core/whatIf/replay.ts';
import type { ChartTable } from '../../../parts/ChartAndTable.tsx';
import { typedOf } from '../../../parts/minorOf.ts';

/** What the comparison takes to be so, in words. */
export const ASSUMPTIONS: readonly string[] = [
  'A payment that failed keeps the reason of its first decline: a card that lacked money is not taken to expire later.',
  'A retry succeeds with a chance that depends on why the payment failed, the day of the month, the weekday, the days since it failed, and how many retries there were; nothing else, such as the sum or the bank.',
  'On every day that it is open the customer may mend it, by paying or by another card, with a chance that depends on why it failed, the days since the last letter, and how many letters there were. What the letters say is taken to be what they said in the past.',
  'Chances of different days are independent, but for what they depend on: five retries in five days count as five tries. Where the past has few such days, the interval does not show that.',
  'Where little has happened, the chances are those of the priors: one retry in four, one customer in thirty a day, letters that help most on their first two days. Every decline of the past moves them towards what was seen.',
  'A bank that is away is asked once more on the next day. Days that a case waits for something, suspensions, letters that are switched off, and people who pay after the end are left out.',
];

export const sayMoney = (minor: number, currency: string) => sayFigure(BigInt(Math.round(minor)), currency);
const oneDecimal = (value: number) => value.toFixed(1);
const whole = (value: number) => Math.round(value).toLocaleString('en');

function said({ middle, low, high }: Estimate, say: (value: number) => string): string {
  return say(low) === say(high) ? say(middle) : `${say(middle)}\n${say(low)} to ${say(high)}`;
}

/** The columns of the same as a file: of each figure the middle and the ends of its interval. */
const PLAIN_COLUMNS = [
  'Ladder',
  ...['Recovered', 'More than the first', 'Customers', 'Retries each', 'Letters each', 'Days'].flatMap(
    (one) => [one, `${one}, 5 %`, `${one}, 95 %`],
  ),
];

interface Named {
  readonly name: string;
  readonly of: Replayed;
}

/** What is compared, ladder by ladder. */
export function comparison(ladders: readonly Named[], currency: string, declines: number): ChartTable {
  const money = (value: number) => sayMoney(value, currency);
  const plain = ({ middle, low, high }: Estimate, say: (value: number) => string) =>
    [middle, low, high].map(say);
  const minor = (value: number) => typedOf(BigInt(Math.round(value)), currency);
  const two = (value: number) => value.toFixed(2);
  return {
    name: 'ladders-compared',
    plainColumns: PLAIN_COLUMNS,
    columns: [
      ...['Ladder', `Recovered, ${currency}`, 'More than the first', `Customers of ${whole(declines)}`],
      ...['Retries each', 'Letters each', 'Days'],
    ],
    rows: ladders.map(({ name, of }, i) => [
      name,
      said(of.money, money),
      i === 0 ? '' : said(of.moreThanFirst, money),
      said(of.recovered, whole),
      said(of.retriesEach, oneDecimal),
      said(of.lettersEach, oneDecimal),
      said(of.days, oneDecimal),
    ]),
    plain: ladders.map(({ name, of }) => [
      name,
      ...plain(of.money, minor),
      ...plain(of.moreThanFirst, minor),
      ...plain(of.recovered, String),
      ...plain(of.retriesEach, two),
      ...plain(of.lettersEach, two),
      ...plain(of.days, two),
    ]),
  };
}

/** The share that is paid, by days after the failure. */
export function paidByDay(ladders: readonly Named[]): ChartTable {
  const longest = Math.max(...ladders.map(({ of }) => of.paidBy.length), 1);
  return {
    name: 'paid-by-day',
    columns: ['Day', ...ladders.map(({ name }) => `${name}, %`)],
    rows: Array.from({ length: longest }, (_, day) => [
      String(day),
      ...ladders.map(({ of }) => (100 * (of.paidBy[day] ?? of.paidBy.at(-1) ?? 0)).toFixed(1)),
    ]),
  };
}
