import type { Fault } from '../../core/terms/fault.ts';

/** What the calculation says of a member of its file format, as it is said of a field of the form. */
const WORDS: readonly (readonly [pointer: RegExp, says: RegExp, inTheForm: string])[] = [
  [/^\/(interval|trial\/length)$/, /./, 'Give a whole number from 1 to 999.'],
  [/^\/terms$/, /Give/, 'Give a whole number of days.'],
  [/^\/on\//, /interval of days/, 'Days are counted from the day of start alone.'],
  [/^\/on\//, /interval of weeks/, 'Weeks are counted from the day of start, or from a weekday.'],
  [
    /^\/on\//,
    /interval of months/,
    'Months are counted from a day of the month, or from a weekday such as the first Monday; two days need every 1 month.',
  ],
  [/^\/on\//, /interval of years/, 'Years are counted from a day of one month.'],
  [/^\/on\/(day|days)$/, /Too|An anchor|Invalid/, 'Give a day from 1 to 31.'],
  [/^\/on\/month$/, /./, 'Choose a month.'],
  [/^\/on\/(nth|weekday)$/, /An anchor|Invalid/, 'Choose a weekday.'],
  [/^\/ends\/after$/, /Instalments/, 'Instalments need a number of payments: say after how many it ends.'],
  [/^\/ends\/after$/, /./, 'Give a whole number from 1.'],
  [/\/date$|\/(from|to|until)$|\/holidays\/\d+$/, /YYYY-MM-DD/, 'Give a day that exists.'],
  [
    /\/(amount|total|min|max)$/,
    /Give an amount/,
    'Give an amount such as 4.50, with no more decimals than the currency has.',
  ],
  [/\/tiers\/\d+\/to$/, /Give/, 'Give the last quantity of this tier, a whole number from 1.'],
  [/\/each$/, /Give/, 'Give a price such as 4.50, with at most 12 decimals.'],
];

/** A fault in the words of the form. */
export function inFormWords(fault: Fault): Fault {
  // Both days of a month have one place for what is wrong with them.
  const pointer = fault.pointer.replace(/^\/on\/days\/\d$/, '/on/days');
  const found = WORDS.find(([of, says]) => of.test(pointer) && says.test(fault.detail));
  return { pointer, detail: found ? found[2] : fault.detail };
}
