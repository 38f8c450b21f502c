import { expect, test } from 'vitest';
import { jsonSchemas } from './jsonSchema.ts';

test.each(['terms', 'output'] as const)(
  'docs/%s.schema.json is what the schemas say (vitest -u writes it)',
  async (name) => {
    const text = `${JSON.stringify(jsonSchemas()[name], null, 2)}\n`;
    await expect(text).toMatchFileSnapshot(`../../docs/${name}.schema.json`);
  },
);
