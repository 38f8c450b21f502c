import { defineConfig } from 'vitest/config';

/** Limits end what hangs; nothing here depends on how fast the machine is. */
const HANGS = 900_000;

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'core',
          include: ['core/**/*.test.ts', 'command/**/*.test.ts', 'standins/**/*.test.ts', 'web/**/*.test.ts'],
          testTimeout: HANGS,
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts'],
          globalSetup: ['testing/clusterSetup.ts'],
          testTimeout: HANGS,
          hookTimeout: HANGS,
        },
      },
    ],
  },
});
