/** JSON that people and programs write is nested no deeper. */
export const DEEPEST_JSON = 64;

/**
 * Whether a JSON text is nested deeper than it may be. It is read sign by sign, before anything parses it, so that no
 * text can make a reader climb down thousands of levels.
 */
export function isNestedTooDeeply(json: string | Buffer, deepest = DEEPEST_JSON): boolean {
  const bytes = typeof json === 'string' ? Buffer.from(json) : json;
  let depth = 0;
  let inString = false;
  for (let at = 0; at < bytes.length; at += 1) {
    const sign = bytes[at];
    if (inString) {
      if (sign === 0x5c) at += 1;
      else if (sign === 0x22) inString = false;
    } else if (sign === 0x22) inString = true;
    else if (sign === 0x7b || sign === 0x5b) {
      depth += 1;
      if (depth > deepest) return true;
    } else if (sign === 0x7d || sign === 0x5d) depth -= 1;
  }
  return false;
}
