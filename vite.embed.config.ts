import { defineConfig } from 'vite';

/** The one script by which a site shows a sign-up page: a file of its own, under an address that stays. */
export default defineConfig({
  publicDir: false,
  build: {
    outDir: 'dist/web',
    emptyOutDir: false,
    lib: { entry: 'web/join/embed.ts', formats: ['iife'], name: 'almanacJoin', fileName: () => 'embed.js' },
  },
});
