import { AsyncLocalStorage } from 'node:async_hooks';

/** By which way a write came. */
export type Via = 'interface' | 'program' | 'customer' | 'terminal' | 'stranger';

/** Who asks for what is being done now, and from where: it stands in every audit entry. */
export interface Asker {
  readonly personId: string | null;
  readonly who: string;
  readonly via: Via;
  readonly address: string;
  readonly agent: string;
  /** The key under which the request is done once, where it came with one. */
  readonly onceUnder?: { readonly name: string; readonly key: string };
  /** How many entries have been written for this request. */
  entries: number;
}

const store = new AsyncLocalStorage<Asker>();

/** Does some work in the name of an asker. */
export function inTheNameOf<T>(asker: Omit<Asker, 'entries'>, work: () => Promise<T>): Promise<T> {
  return store.run({ ...asker, entries: 0 }, work);
}

/** Who asks. Outside of any request it is whoever sits at the server's own terminal. */
export function askerNow(): Asker {
  return (
    store.getStore() ?? {
      personId: null,
      who: 'the terminal',
      via: 'terminal',
      address: '',
      agent: '',
      entries: 0,
    }
  );
}
