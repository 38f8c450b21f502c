/** Asks whoever sits here to sign in again; gives whether they did. */
type Asking = () => Promise<boolean>;

let asking: Asking | null = null;

/** Names who asks: the frame, while it is there. Gives how to take that back. */
export function askAgainBy(ask: Asking): () => void {
  asking = ask;
  return () => {
    if (asking === ask) asking = null;
  };
}

/** Asks, where somebody can: before something sensitive, when signing in was a while ago. */
export function askAgain(): Promise<boolean> {
  return asking?.() ?? Promise.resolve(false);
}
