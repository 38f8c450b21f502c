import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { listPayments, type Horizon } from '../listing/listPayments.ts';
import { checkTerms } from '../terms/check.ts';

interface Case {
  readonly id: string;
  readonly about?: string;
  readonly terms: unknown;
  readonly horizon: Horizon;
  readonly expect: object & { readonly refused?: string[] };
}

describe.each(['hand', 'cases'])('%s.jsonl', (name) => {
  const text = readFileSync(new URL(`./${name}.jsonl`, import.meta.url), 'utf8');
  const cases = text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Case);

  test.each(cases.map((one) => [`${one.id} ${one.about ?? ''}`, one] as const))('%s', (_, one) => {
    const checked = checkTerms(one.terms);
    if (checked.ok) expect(listPayments(checked.terms, one.horizon)).toEqual(one.expect);
    else expect(checked.faults.map((fault) => fault.pointer).sort()).toEqual(one.expect.refused?.sort());
  });
});
