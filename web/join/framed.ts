/** Whether the page stands in a frame of another site: staff who look at it have it in one of ours. */
export const isFramed = window.parent !== window && !isOurs(window.parent);

function isOurs(around: Window): boolean {
  try {
    return around.location.origin === location.origin;
  } catch {
    return false; // What is of another site cannot be asked.
  }
}

/** What a page in a frame tells the page around it; `embed.ts` listens. */
export type Told =
  { readonly almanac: 'height'; readonly height: number } | { readonly almanac: 'go'; readonly to: string };

/** Nothing that is told is a secret: whoever may frame the page may know how high it is, and where it leads. */
const tell = (told: Told) => window.parent.postMessage(told, '*');

/** Tells the page around how high this one is, each time that changes. */
export function tellHeight(): void {
  if (!isFramed) return;
  document.documentElement.classList.add('framed');
  const say = () => tell({ almanac: 'height', height: Math.ceil(document.body.scrollHeight) });
  new ResizeObserver(say).observe(document.body);
}

/** Goes to another address: of the window, not of the frame. */
export function leaveTo(address: string): void {
  if (isFramed) tell({ almanac: 'go', to: address });
  else location.assign(address);
}
