import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus';

/** Chance that comes out the same for the same seed. */
export class Chance {
  readonly #source: { next(): number };
  #spare: number | null = null;

  /** @param seed a whole number */
  constructor(seed: number) {
    this.#source = xoroshiro128plus(seed);
  }

  /** From 0 to 1, never 1, each as likely as the others. */
  uniform(): number {
    return (this.#source.next() >>> 0) / 0x1_0000_0000;
  }

  /** Of mean 0 and deviation 1, by the method of Box and Muller (1958). */
  normal(): number {
    if (this.#spare !== null) {
      const spare = this.#spare;
      this.#spare = null;
      return spare;
    }
    const far = Math.sqrt(-2 * Math.log(1 - this.uniform()));
    const around = 2 * Math.PI * this.uniform();
    this.#spare = far * Math.sin(around);
    return far * Math.cos(around);
  }
}
