/** One fault of a document: where it stands (JSON Pointer, RFC 6901) and a sentence that says what is allowed. */
export interface Fault {
  readonly pointer: string;
  readonly detail: string;
}

/** Writes a path of member names and indexes as a JSON Pointer. */
export function pointerTo(path: readonly PropertyKey[]): string {
  return path.map((part) => `/${String(part).replace(/~/g, '~0').replace(/\//g, '~1')}`).join('');
}

/** A refused document: thrown where the caller asked for a result and cannot go on. */
export class RefusedTerms extends Error {
  constructor(readonly faults: readonly Fault[]) {
    super(faults.map((fault) => `${fault.pointer}: ${fault.detail}`).join('\n'));
    this.name = 'RefusedTerms';
  }
}
