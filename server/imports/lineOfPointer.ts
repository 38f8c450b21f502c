/**
 * The line of a JSON text on which the value at a path starts, counted from 1: so that a fault in a file can be
 * told by its line. Falls back to the line of the nearest value around it that is there.
 */
export function lineOfPath(text: string, path: readonly PropertyKey[]): number {
  const lines = new Map<string, number>();
  let at = 0;
  let line = 1;
  const space = () => {
    for (; at < text.length && /\s/.test(text[at] ?? ''); at += 1) if (text[at] === '\n') line += 1;
  };
  const string = (): string => {
    const start = at;
    for (at += 1; at < text.length && text[at] !== '"'; at += 1) if (text[at] === '\\') at += 1;
    at += 1;
    return JSON.parse(text.slice(start, at)) as string;
  };
  const value = (where: string): void => {
    space();
    lines.set(where, line);
    const opening = text[at];
    if (opening === '{' || opening === '[') {
      at += 1;
      for (let index = 0; ; index += 1) {
        space();
        if (text[at] === '}' || text[at] === ']' || at >= text.length) break;
        let name = String(index);
        if (opening === '{') {
          name = string();
          space();
          at += 1; // the colon
        }
        value(`${where}/${name}`);
        space();
        if (text[at] === ',') at += 1;
      }
      at += 1;
    } else if (opening === '"') string();
    else while (at < text.length && !/[\s,\]}]/.test(text[at] ?? '')) at += 1;
  };
  value('');
  for (let length = path.length; length >= 0; length -= 1) {
    const found = lines.get(
      path
        .slice(0, length)
        .map((part) => `/${String(part)}`)
        .join(''),
    );
    if (found !== undefined) return found;
  }
  return 1;
}
