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

/** Goes to a field by its name in the form, opening the fold that it stands in. */
export function goToField(name: string): void {
  const field = document.querySelector<HTMLElement>(`[data-field="${CSS.escape(name)}"]`);
  field?.closest('details:not([open])')?.setAttribute('open', '');
  const input = field?.matches('input, select, textarea, button')
    ? field
    : field?.querySelector<HTMLElement>(
        'input:not([type="hidden"]):not(:disabled), select:not(:disabled), textarea, [contenteditable="true"], button',
      );
  field?.scrollIntoView({ block: 'center' });
  input?.focus();
}
