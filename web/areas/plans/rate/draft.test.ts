import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { listPayments } from '../../../../core/listing/listPayments.ts';
import { checkTerms } from '../../../../core/terms/check.ts';
import { newDraft, NEW_LINE, termsOf, type RateDraft } from './draft.ts';
import { inFormWords } from '../../../parts/formWords.ts';
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

test('what is refused of a rate is said in the words of the form, not of its file', () => {
  const told = new Map<string, string>();
  const tell = (terms: Record<string, unknown>) => {
    const checked = checkTerms(terms);
    if (!checked.ok) for (const fault of checked.faults) told.set(fault.pointer, inFormWords(fault).detail);
  };
  for (const { terms } of cases) {
    const { starts: _, ...rate } = terms;
    // Some refused documents have no shape that the form could hold.
    const draft = (() => {
      try {
        return draftOf('Rate', rate, 'default');
      } catch {
        return null;
      }
    })();
    if (draft) tell({ ...termsOf(draft), starts: '2028-01-15' });
  }
  const empty = newDraft('GBP', 0);
  const typed: Partial<RateDraft>[] = [
    { every: '0' },
    { trial: 'soon' },
    { termDays: 'x' },
    { ends: 'after', after: 'x' },
    { ends: 'until', until: '' },
    { setup: '1.234' },
    { lines: [{ ...NEW_LINE, scheme: 'each-tier' }] },
    {
      lines: [
        { ...NEW_LINE, scheme: 'reached-tier', tiers: [0, 1].map(() => ({ to: '', each: '', amount: '' })) },
      ],
    },
    { lines: [{ ...NEW_LINE, scheme: 'instalments', amount: '70' }] },
    { lines: [{ ...NEW_LINE, amount: '5', firstPayments: 'x', firstAmount: '-' }] },
    { unit: 'W', anchor: { ...empty.anchor, kind: 'day' } },
    { unit: 'D', anchor: { ...empty.anchor, kind: 'weekday' } },
    { unit: 'Y', anchor: { ...empty.anchor, kind: 'month', month: '13', day: '40' } },
    { anchor: { ...empty.anchor, kind: 'days', day: '40', second: '2' } },
    { anchor: { ...empty.anchor, kind: 'day', day: '32' } },
    { pauses: [{ from: '', to: '', resume: 'keep' }] },
    { shift: 'next', holidays: 'Christmas' },
    { tax: 'own', taxRate: '200' },
    { discounts: [{ as: 'percent', off: '101', payments: 'x', to: 'all' }] },
    { once: [{ name: '', amount: '', date: '2027-02-30' }] },
  ];
  for (const to of typed) tell({ ...termsOf({ ...empty, ...to }), starts: '2028-01-15' });
  expect(told.size).toBeGreaterThan(25);
  for (const [pointer, detail] of told)
    expect(detail, pointer).not.toMatch(/[{}]|expected|YYYY|P\d|Invalid|null|"[a-z]/);
});
