import { expect, test } from 'vitest';
import { unheard } from './unheard.ts';

const failing = (code: string) => Object.assign(new Error('as the driver says it'), { code });

test('a connection that is cut while the queue finishes a job ends no worker; a fault of the program does', () => {
  const written: object[] = [];
  const take = unheard({ error: (said: object) => written.push(said) } as never);
  for (const code of ['57P01', '08006', 'ECONNRESET']) take(failing(code));
  expect(written.length).toBe(3);
  expect(() => take(failing('23505'))).toThrow('as the driver says it');
  expect(() => take(new TypeError('x is not a function'))).toThrow(TypeError);
  expect(() => take(undefined)).toThrow();
  expect(written.length).toBe(3);
});
