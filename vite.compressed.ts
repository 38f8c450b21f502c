import { constants } from 'node:zlib';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';

/** Compresses what is built, once, and as small as can be: the server hands out what is compressed already. */
export const compressed = () =>
  compression({
    include: /\.(js|css|svg|html|json)$/,
    threshold: 1000,
    algorithms: [
      defineAlgorithm('gzip', { level: 9 }),
      defineAlgorithm('brotliCompress', { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }),
    ],
  });
