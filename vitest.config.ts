import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'core',
          include: ['core/**/*.test.ts', 'command/**/*.test.ts', 'standins/**/*.test.ts', 'web/**/*.test.ts'],
          testTimeout: 120_000,
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts'],
          globalSetup: ['testing/clusterSetup.ts'],
          testTimeout: 120_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
});
