import { CholeskyDecomposition, inverse, Matrix } from 'ml-matrix';
import type { Cells } from './cells.ts';
import type { Chance } from './chance.ts';

/** How often something was tried in each cell, and how often it came about. */
export interface Counted {
  readonly tried: Float64Array;
  readonly came: Float64Array;
}

/** What is known of the effects: the most likely, and how far they may lie from it, together. */
export interface Fitted {
  readonly mode: Float64Array;
  /** Lower triangle: the mode plus this times independent standard normal values is a draw of the effects. */
  readonly spread: readonly Float64Array[];
}

export function nothingCounted(cells: Cells): Counted {
  return { tried: new Float64Array(cells.size), came: new Float64Array(cells.size) };
}

/**
 * Logistic regression with normal priors: the effects that are most likely after what was counted, found by Newton's method,
 * and the normal approximation around them (Laplace). With nothing counted it gives the priors.
 */
export function fitLogistic(cells: Cells, { tried, came }: Counted): Fitted {
  const size = cells.effects.length;
  const mode = Float64Array.from(cells.effects, ({ prior }) => prior[0]);
  const used = [...tried.keys()]
    .filter((cell) => (tried[cell] ?? 0) > 0)
    .map((cell) => ({ effects: cells.effectsOf(cell), tried: tried[cell] ?? 0, came: came[cell] ?? 0 }));
  let curvature = Matrix.zeros(size, size);
  for (let round = 0; round < 60; round += 1) {
    const slope = Matrix.zeros(size, 1);
    curvature = Matrix.zeros(size, size);
    cells.effects.forEach(({ prior: [mean, deviation] }, i) => {
      slope.set(i, 0, (mean - (mode[i] ?? 0)) / deviation ** 2);
      curvature.set(i, i, 1 / deviation ** 2);
    });
    for (const cell of used) {
      const p = logistic(sumOf(mode, cell.effects));
      const weight = cell.tried * p * (1 - p);
      for (const i of cell.effects) {
        slope.set(i, 0, slope.get(i, 0) + cell.came - cell.tried * p);
        for (const j of cell.effects) curvature.set(i, j, curvature.get(i, j) + weight);
      }
    }
    const step = new CholeskyDecomposition(curvature).solve(slope).to1DArray();
    // A long step is cut: far from the mode the curve is flatter than it is there.
    const longest = Math.max(...step.map(Math.abs));
    const cut = longest > 2 ? 2 / longest : 1;
    step.forEach((by, i) => (mode[i] = (mode[i] ?? 0) + by * cut));
    if (longest < 1e-9) break;
  }
  const around = inverse(curvature);
  const even = Matrix.add(around, around.transpose()).mul(0.5);
  const lower = new CholeskyDecomposition(even).lowerTriangularMatrix;
  return { mode, spread: lower.to2DArray().map((row) => Float64Array.from(row)) };
}

/** Draws the effects, as they may be after what was counted. */
export function drawEffects({ mode, spread }: Fitted, chance: Chance): Float64Array {
  const z = mode.map(() => chance.normal());
  return mode.map((middle, i) => {
    let value = middle;
    const row = spread[i];
    if (row) for (let j = 0; j <= i; j += 1) value += (row[j] ?? 0) * (z[j] ?? 0);
    return value;
  });
}

/** The chance of each of the cells that are asked for, 0 to 1; of the others it is left as it was. */
export function chancesOf(
  cells: Cells,
  effects: Float64Array,
  asked: readonly number[],
  into: Float64Array,
): Float64Array {
  for (const cell of asked) into[cell] = logistic(sumOf(effects, effectsIn(cells, cell)));
  return into;
}

const kept = new WeakMap<Cells, (readonly number[] | undefined)[]>();
function effectsIn(cells: Cells, cell: number): readonly number[] {
  const of = kept.get(cells) ?? [];
  if (of.length === 0) kept.set(cells, of);
  return (of[cell] ??= cells.effectsOf(cell));
}

function sumOf(effects: Float64Array, places: readonly number[]): number {
  let sum = 0;
  for (const at of places) sum += effects[at] ?? 0;
  return sum;
}

const logistic = (x: number) => 1 / (1 + Math.exp(-x));

/** What one effect does to the odds, and within what that lies with 90 %: 1 is nothing. */
export interface Odds {
  readonly of: string;
  readonly value: string;
  readonly factor: number;
  readonly low: number;
  readonly high: number;
  /** How often it was met. */
  readonly met: number;
}

/** The normal value that 95 % lie below. */
export const Z_OF_90 = 1.645;

/** What each effect does to the odds, but for the first, from which all begin. */
export function oddsOf(cells: Cells, { mode, spread }: Fitted, { tried }: Counted): readonly Odds[] {
  const met = new Float64Array(cells.effects.length);
  for (let cell = 0; cell < tried.length; cell += 1) {
    const times = tried[cell] ?? 0;
    if (times > 0) for (const at of effectsIn(cells, cell)) met[at] = (met[at] ?? 0) + times;
  }
  return cells.effects
    .map(({ of, value }, i) => {
      const middle = mode[i] ?? 0;
      const reach = Z_OF_90 * Math.hypot(...(spread[i] ?? []));
      const [factor, low, high] = [middle, middle - reach, middle + reach].map(Math.exp) as [
        number,
        number,
        number,
      ];
      return { of, value, factor, low, high, met: met[i] ?? 0 };
    })
    .slice(1);
}
