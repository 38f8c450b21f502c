import type { OfferedRateView } from '../../server/signUp/messages.ts';
import { parseDuration } from '../../core/dates/duration.ts';
import type { Saying } from './saying.ts';

/**
 * What a rate costs, taxes within.
 * @example '£12.00 every month', '£50.00 every month, 7 times', 'your own amount every month'
 */
export function sayRate(rate: OfferedRateView, { words, amount }: Saying): string {
  const { each, chosen, currency, interval, payments, counted } = rate;
  const sum = chosen ? words.ownAmount : each === null ? '' : amount(each, currency);
  const rhythm = interval === null ? words.once : words.every(interval);
  const times = payments === null ? '' : `, ${words.times(payments)}`;
  return `${sum}${counted ? ` ${words.eachOf}` : ''} ${rhythm}${times}`.trim();
}

/** What it saves against another rate, or costs more; empty where it does neither. */
export function saySaving({ saves, currency }: OfferedRateView, { words, amount }: Saying): string {
  if (saves === null) return '';
  const isMore = saves.amount.startsWith('-');
  const size = saves.amount.replace('-', '');
  return words.saves(amount(size, currency), saves.than, saves.basis, isMore);
}

/** The trial that it begins with; empty where there is none. */
export function sayTrial({ trial }: OfferedRateView, { words }: Saying): string {
  const length = trial === null ? null : parseDuration(trial);
  return length === null ? '' : words.trialFirst(words.length(length));
}
