import { expect, test } from 'vitest';
import { sayPercent, trimmedRate } from './percent.ts';

test('a rate is said without the zeros that it is stored with, and is the same rate', () => {
  for (const [stored, said] of [
    ['20.0000', '20'],
    ['8.8750', '8.875'],
    ['0.0000', '0'],
    ['100', '100'],
    ['0.5000', '0.5'],
    ['10.0000', '10'],
  ] as const) {
    expect(trimmedRate(stored)).toBe(said);
    expect(Number(trimmedRate(stored))).toBe(Number(stored));
    expect(sayPercent(stored)).toBe(`${said}\u00a0%`);
  }
});
