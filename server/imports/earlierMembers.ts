/**
 * A file of what is offered as it is written now, whatever version wrote it: where rates had two switches for how they
 * are paid, what was charged by hand is paid by invoice. What is no such file stays as it is, for the schema to refuse.
 */
export function withoutEarlierMembers(document: unknown): unknown {
  const { plans } = isObject(document) ? document : {};
  if (!Array.isArray(plans)) return document;
  return { ...(document as object), plans: plans.map((plan) => within(plan, 'rates', rateOf)) };
}

function rateOf(rate: unknown): unknown {
  if (!isObject(rate) || !isObject(rate.options) || !('collects' in rate.options)) return rate;
  const { collects, ...options } = rate.options;
  return { ...rate, options: collects === 'by hand' ? { ...options, methods: ['invoice'] } : options };
}

function within(value: unknown, member: string, change: (item: unknown) => unknown): unknown {
  if (!isObject(value)) return value;
  const items = value[member];
  return Array.isArray(items) ? { ...value, [member]: items.map(change) } : value;
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
