import { z } from 'zod';

/** A code as it is stored: capitals, so that nobody minds how it is typed. */
export const codeText = z
  .string()
  .trim()
  .transform((text) => text.toUpperCase())
  .pipe(z.string().regex(/^[A-Z0-9-]{3,40}$/, 'A code has 3 to 40 letters, digits and hyphens.'));
