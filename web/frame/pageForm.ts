import { useEffect, type RefObject } from 'react';

/** The form of a page: the button in the margin belongs to it. */
export const PAGE_FORM = 'page-form';

/** Asks, once what is drawn has settled, for the focus on the first field that is marked as not good. */
let wanted = false;
export const focusFirstFault = () => {
  wanted = true;
};

/** After something was refused, the focus goes to the first field that says so. */
export function useFaultFocus(at: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    if (!wanted) return;
    const found = document.querySelector<HTMLElement>('[aria-invalid="true"]:not(:disabled)');
    if (!found || !at.current?.isConnected) return;
    wanted = false;
    found.focus();
  });
}

const INPUTS =
  'input:not([type="hidden"]):not(:disabled), select:not(:disabled), textarea, [contenteditable="true"], button';

/**
 * Goes to a field of the page by its name in the form, opening the fold that it stands in; where no field has the name,
 * to the one that says the same, or else to the first that is marked as not good.
 */
export function goToField(name: string, says = ''): void {
  const main = document.getElementById('main');
  const field =
    document.querySelector<HTMLElement>(`[data-field="${CSS.escape(name)}"]`) ?? saying(main, says);
  const bad = main?.querySelector<HTMLElement>('[aria-invalid="true"]:not(:disabled)') ?? null;
  const input = field?.matches(INPUTS) ? field : (field?.querySelector<HTMLElement>(INPUTS) ?? bad);
  input?.closest('details:not([open])')?.setAttribute('open', '');
  input?.scrollIntoView({ block: 'center' });
  input?.focus();
}

/**
 * Goes on with a field once what was taken is drawn, and once a list that closes has given the focus back to its own field,
 * which it does in the next frame.
 */
export function goOnToField(name: string): void {
  requestAnimationFrame(() => setTimeout(() => goToField(name)));
}

/** The field under which some words stand. */
function saying(main: HTMLElement | null, says: string): HTMLElement | null {
  if (says === '') return null;
  const texts = [...(main?.querySelectorAll<HTMLElement>('[data-part="error-text"]') ?? [])];
  const found = texts.find((text) => text.textContent?.replace(/\.$/, '') === says);
  return found?.closest<HTMLElement>('[data-part="root"]') ?? null;
}
