import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compressed } from './vite.compressed.ts';

/**
 * The pages on which customers join: a program of its own, without what the desk is made of, so that it is there at once
 * on a telephone. `./almanac bench web` says what it loads.
 */
export default defineConfig({
  root: 'web/join',
  base: '/join/',
  publicDir: false,
  plugins: [react(), compressed()],
  build: { outDir: '../../dist/web/join', emptyOutDir: true, assetsInlineLimit: 0 },
});
