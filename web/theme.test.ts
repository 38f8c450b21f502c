import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { defaultSystem } from '@chakra-ui/react';
import { expect, test } from 'vitest';
import { system } from './theme.ts';

const WEB = import.meta.dirname;
/** Parts that look as another does. */
const LIKE: Readonly<Record<string, readonly string[]>> = {
  CloseButton: ['button'],
  IconButton: ['button'],
  InputGroup: ['inputAddon'],
  Checkbox: ['checkbox', 'checkmark'],
  RadioGroup: ['radioGroup', 'radiomark'],
  Button: ['button', 'spinner'],
};

test('every part of the interface kit that is used has its looks, and of the others there are none', () => {
  const files = readdirSync(WEB, { recursive: true, encoding: 'utf8' }).filter((name) =>
    /\.tsx?$/.test(name),
  );
  const used = new Set(
    files.flatMap((name) =>
      [
        ...readFileSync(join(WEB, name), 'utf8').matchAll(/import \{([^}]*)\} from '@chakra-ui\/react'/g),
      ].flatMap(([, names = '']) =>
        names
          .split(',')
          .map((one) => one.trim().split(' as ')[0] ?? '')
          .filter((one) => /^[A-Z]/.test(one)),
      ),
    ),
  );
  expect(used.size).toBeGreaterThan(25);
  const recipesOf = (part: string) => LIKE[part] ?? [part.charAt(0).toLowerCase() + part.slice(1)];
  const isOf = (kit: typeof system, name: string) => kit.isRecipe(name) || kit.isSlotRecipe(name);
  const lacking = [...used]
    .flatMap(recipesOf)
    .filter((name) => isOf(defaultSystem, name) && !isOf(system, name));
  expect(lacking, 'add its recipe to web/theme.ts').toEqual([]);
  expect(isOf(system, 'colorPicker')).toBe(false);
});
