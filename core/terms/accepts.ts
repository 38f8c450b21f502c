import type { z } from 'zod';

/** Whether a value is good by a schema. */
export type Accepts = (value: unknown) => boolean;

type Json = Record<string, unknown>;

/**
 * A quick yes for a schema: it is walked once, and gives a plain function that says whether a value is good, without
 * saying what is wrong, and without a copy. What it does not say yes to is asked of the schema itself, which may be slow.
 *
 * It knows the kinds of schema that terms are made of, and throws a RangeError where it meets another.
 * @see the definitions of Zod 4, which are open to libraries: https://zod.dev/packages/core
 */
export function acceptsOf(schema: z.core.$ZodType): Accepts {
  const kind = kindOf(schema as z.core.$ZodTypes);
  const checks = (schema._zod.def.checks ?? []).map((check) => checkOf(check as z.core.$ZodChecks));
  if (checks.length === 0) return kind;
  return (value) => {
    if (!kind(value)) return false;
    for (const check of checks) if (!check(value)) return false;
    return true;
  };
}

function kindOf(schema: z.core.$ZodTypes): Accepts {
  const { def } = schema._zod;
  switch (def.type) {
    case 'string':
      return (value) => typeof value === 'string';
    case 'number': {
      const { format } = def as z.core.$ZodNumberDef & { readonly format?: string };
      if (format === 'safeint') return (value) => Number.isSafeInteger(value);
      if (format !== undefined) break;
      return (value) => typeof value === 'number' && Number.isFinite(value);
    }
    case 'null':
      return (value) => value === null;
    case 'literal': {
      const [only] = def.values;
      if (def.values.length !== 1) break;
      return (value) => value === only;
    }
    case 'enum': {
      const words = new Set<unknown>(Object.values(def.entries));
      return (value) => words.has(value);
    }
    case 'optional': {
      const inner = acceptsOf(def.innerType);
      return (value) => value === undefined || inner(value);
    }
    case 'nullable': {
      const inner = acceptsOf(def.innerType);
      return (value) => value === null || inner(value);
    }
    case 'array': {
      const element = acceptsOf(def.element);
      return (value) => {
        if (!Array.isArray(value)) return false;
        for (let i = 0; i < value.length; i += 1) if (!element(value[i])) return false;
        return true;
      };
    }
    case 'tuple': {
      const items = def.items.map(acceptsOf);
      if (def.rest !== null) break;
      return (value) =>
        Array.isArray(value) &&
        value.length === items.length &&
        items.every((accepts, i) => accepts(value[i]));
    }
    case 'object':
      return strictObject(def);
    case 'union':
      return union(def as z.core.$ZodUnionDef & { readonly discriminator?: string });
  }
  throw new RangeError(`There is no quick check of a schema that is ${def.type}.`);
}

function strictObject({ shape, catchall }: z.core.$ZodObjectDef): Accepts {
  if (catchall?._zod.def.type !== 'never') throw new RangeError('An object takes no other members.');
  const members = new Map(
    Object.entries(shape).map(([name, member]) => [
      name,
      { accepts: acceptsOf(member), isNeeded: member._zod.optin !== 'optional' },
    ]),
  );
  const needed = [...members.values()].filter(({ isNeeded }) => isNeeded).length;
  return (value) => {
    if (!isPlain(value)) return false;
    let found = 0;
    for (const name in value) {
      const member = members.get(name);
      if (member === undefined || !member.accepts(value[name])) return false;
      if (member.isNeeded) found += 1;
    }
    return found === needed;
  };
}

function union({
  options,
  discriminator,
}: z.core.$ZodUnionDef & { readonly discriminator?: string }): Accepts {
  const all = options.map(acceptsOf);
  if (discriminator === undefined) return (value) => all.some((accepts) => accepts(value));
  const by = new Map<unknown, Accepts>();
  options.forEach((option, i) => {
    const accepts = all[i];
    for (const value of option._zod.propValues?.[discriminator] ?? []) if (accepts) by.set(value, accepts);
  });
  return (value) => isPlain(value) && (by.get(value[discriminator])?.(value) ?? false);
}

/** An object as JSON makes it: what is none is left to the schema. */
function isPlain(value: unknown): value is Json {
  return value !== null && typeof value === 'object' && Object.getPrototypeOf(value) === Object.prototype;
}

function checkOf(check: z.core.$ZodChecks): Accepts {
  const def = (check as z.core.$ZodCheck)._zod.def as unknown as {
    readonly check: string;
    readonly value: number;
    readonly inclusive: boolean;
    readonly minimum: number;
    readonly maximum: number;
    readonly fn: (value: unknown) => unknown;
  };
  switch (def.check) {
    case 'custom':
      return (value) => Boolean(def.fn(value));
    case 'greater_than':
      return (value) => (def.inclusive ? (value as number) >= def.value : (value as number) > def.value);
    case 'less_than':
      return (value) => (def.inclusive ? (value as number) <= def.value : (value as number) < def.value);
    case 'min_length':
      return (value) => (value as { length: number }).length >= def.minimum;
    case 'max_length':
      return (value) => (value as { length: number }).length <= def.maximum;
  }
  throw new RangeError(`There is no quick check of ${def.check}.`);
}
