import { expect, test } from 'vitest';
import { LETTER_EVENTS } from '../../core/letters/events.ts';
import type { LetterEvent } from './templates.ts';
import { wantedBy } from './wantedBy.ts';

test('what is about money goes to a treasurer, what is private to nobody, and a new letter is not forgotten', () => {
  const events = Object.keys(LETTER_EVENTS) as LetterEvent[];
  const of = (kind: ReturnType<typeof wantedBy>) =>
    events.filter((event) => wantedBy(event) === kind).toSorted();
  expect(of('payments')).toEqual([
    ...['credit note', 'invoice in parts', 'invoice reminder', 'invoice to pay', 'part due'],
    ...['receipt', 'refund'],
  ]);
  expect(of('reminders')).toEqual(
    [
      'confirm payment',
      'invoice overdue',
      'lapsed',
      'last reminder',
      'mandate request',
      'payment declined',
      'payment still declined',
    ].toSorted(),
  );
  expect(of(null)).toEqual(['message']);
  expect(of('subscription')).toHaveLength(events.length - 7 - 7 - 1);
});
