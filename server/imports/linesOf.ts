/** Values nested deeper than this have no line of their own: that of the nearest value around them is told. */
const DEEPEST = 64;

/**
 * The lines of a JSON text on which its values start, counted from 1, so that faults in a file can be told by their
 * line. The text is read once, whatever the number of faults and however deeply it is nested.
 */
export class LinesOf {
  private readonly root: Place;

  constructor(text: string) {
    this.root = placesIn(text);
  }

  /** The line of the value at a path, or of the nearest value around it that is there. */
  at(path: readonly PropertyKey[]): number {
    let place = this.root;
    for (const part of path) {
      const inner = place.members?.get(String(part));
      if (!inner) break;
      place = inner;
    }
    return place.line;
  }
}

interface Place {
  readonly line: number;
  members?: Map<string, Place>;
}

/** One value that is open: how its members are named, and where they are kept. */
interface Open {
  readonly isObject: boolean;
  readonly place: Place | null;
  index: number;
  name: string | null;
}

function placesIn(text: string): Place {
  const root: Place = { line: 1 };
  const open: Open[] = [];
  let line = 1;
  /** Notes that a value starts here, and gives its place where it is to be kept. */
  const begin = (): Place | null => {
    const around = open.at(-1);
    if (!around) return Object.assign(root, { line });
    const name = around.isObject ? (around.name ?? '') : String(around.index);
    if (around.place === null || open.length > DEEPEST) return null;
    const place: Place = { line };
    around.place.members ??= new Map();
    around.place.members.set(name, place);
    return place;
  };
  for (let at = 0; at < text.length; at += 1) {
    const sign = text[at] ?? '';
    const around = open.at(-1);
    switch (sign) {
      case '\n':
        line += 1;
        break;
      case ' ':
      case '\t':
      case '\r':
      case ':':
        break;
      case ',':
        if (around) Object.assign(around, { index: around.index + 1, name: null });
        break;
      case '{':
      case '[':
        open.push({ isObject: sign === '{', place: begin(), index: 0, name: null });
        break;
      case '}':
      case ']':
        open.pop();
        break;
      default: {
        const end = endOfToken(text, at);
        const isName = around?.isObject === true && around.name === null;
        if (isName) around.name = nameOf(text.slice(at, end));
        else begin();
        at = end - 1;
      }
    }
  }
  return root;
}

/** The first place after a string, a number or a word. */
function endOfToken(text: string, start: number): number {
  let at = start + 1;
  if (text[start] === '"') {
    for (; at < text.length && text[at] !== '"'; at += 1) if (text[at] === '\\') at += 1;
    return at + 1;
  }
  while (at < text.length && !/[\s,:[\]{}]/.test(text[at] ?? '')) at += 1;
  return at;
}

function nameOf(token: string): string {
  try {
    return String(JSON.parse(token));
  } catch {
    return token;
  }
}
