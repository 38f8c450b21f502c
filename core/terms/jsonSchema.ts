import { z } from 'zod';
import { outputSchema } from '../listing/output.ts';
import { termsSchema } from './schema.ts';

/**
 * The JSON Schemas (draft 2020-12) of the terms and of the output, made from the Zod schemas. They say what each
 * member may hold; the rules between members (an anchor that fits the interval, tiers that ascend) are checked by
 * `checkTerms` alone.
 */
export function jsonSchemas(): { readonly terms: object; readonly output: object } {
  const made = (schema: z.ZodType, title: string) => ({ title, ...z.toJSONSchema(schema, { io: 'input' }) });
  return {
    terms: made(termsSchema, 'Terms of one subscription or one-off sale'),
    output: made(outputSchema, 'The payments that terms come to'),
  };
}
