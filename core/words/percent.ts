/**
 * A rate in percent as people write it: without the zeros that it is stored with.
 * @param rate a decimal string
 * @example sayPercent('20.0000') // '20 %', and '8.8750' is '8.875 %'
 */
export function sayPercent(rate: string): string {
  return `${trimmedRate(rate)}\u00a0%`;
}

/** The same without its sign: '20', '8.875'. */
export function trimmedRate(rate: string): string {
  return rate.includes('.') ? rate.replace(/\.?0+$/, '') : rate;
}
