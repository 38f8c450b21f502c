import { constants } from 'node:zlib';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';

/**
 * The pages on which customers join: a program of its own, without what the desk is made of, so that it is there at once
 * on a telephone. `./almanac bench web` says what it loads.
 */
export default defineConfig({
  root: 'web/join',
  base: '/join/',
  publicDir: false,
  plugins: [
    react(),
    compression({
      include: /\.(js|css|svg|html|json)$/,
      threshold: 1000,
      algorithms: [
        defineAlgorithm('gzip', { level: 9 }),
        defineAlgorithm('brotliCompress', { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }),
      ],
    }),
  ],
  build: { outDir: '../../dist/web/join', emptyOutDir: true, assetsInlineLimit: 0 },
});
