import { join } from 'node:path';

/**
 * Where a program of the checkout stands in the bundle that the command `almanac` has made of these sources; null where they
 * run as they are.
 * @param file from the folder of the checkout on: 'command/main.ts'
 */
export function bundled(file: string): string | null {
  const folder = process.env.ALMANAC_BUNDLE;
  return folder ? join(folder, file.replace(/\.ts$/, '.js')) : null;
}
