import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { listPayments } from '../../../../core/listing/listPayments.ts';
import { checkTerms } from '../../../../core/terms/check.ts';
import { newDraft, NEW_LINE, termsOf } from './draft.ts';
import { draftOf, untouched } from './savedDraft.ts';

const cases = readFileSync(join(import.meta.dirname, '../../../../core/vectors/cases.jsonl'), 'utf8')
  .split('\n')
  .filter(Boolean)
  .map((line) => JSON.parse(line) as { id: string; terms: Record<string, unknown> });

test('a rate opened in the form and saved as it is charges the same, for every worked case', () => {
  let compared = 0;
  for (const { id, terms } of cases) {
    const checked = checkTerms(terms);
    if (!checked.ok) continue;
    const { starts, ...rate } = terms;
    const through = { ...untouched(rate), ...termsOf(draftOf('Rate', rate, 'default')), starts };
    const again = checkTerms(through);
    if (!again.ok) throw new Error(`${id}: ${JSON.stringify(again.faults)}`);
    const horizon = { count: 14 };
    expect(listPayments(again.terms, horizon), id).toEqual(listPayments(checked.terms, horizon));
    compared += 1;
  }
  expect(compared).toBeGreaterThan(300);
});

test('a first price typed as the amount off comes out as the price', () => {
  const off = (amount: string, firstAmount: string) => {
    const line = { ...NEW_LINE, amount, firstPayments: '1', firstAs: 'off' as const, firstAmount };
    const terms = termsOf({ ...newDraft('GBP', 0), lines: [line] }) as {
      lines: { intro: { amount: string } }[];
    };
    return terms.lines[0]?.intro.amount;
  };
  expect(off('30.00', '10')).toBe('20.00');
  expect(off('30', '9.5')).toBe('20.5');
  expect(off('0.30', '0.05')).toBe('0.25');
  expect(off('1200', '200')).toBe('1000');
  const tooMuch = {
    ...newDraft('GBP', 0),
    lines: [
      { ...NEW_LINE, amount: '5.00', firstPayments: '1', firstAs: 'off' as const, firstAmount: '6.00' },
    ],
  };
  expect(checkTerms({ ...termsOf(tooMuch), starts: '2027-01-01' }).ok).toBe(false);
});
