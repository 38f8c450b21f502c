import { useEffect, type RefObject } from 'react';
import { useLocation } from 'react-router';

const FIELDS =
  'input:not([type="hidden"]):not(:disabled):not([tabindex="-1"]), select:not(:disabled), textarea:not(:disabled), [contenteditable="true"]';

/** The path whose page has the focus already, so that what loads later on it takes nothing away from whoever types. */
let arrivedAt: string | null = null;
/** The path that one came in by: nobody has moved yet, and the browser's own order holds. */
let cameInAt: string | null = null;
let hasMoved = false;

/**
 * After a move the focus is on the page's heading, or on the first field of a form: never nowhere. A page that is
 * shown again while its parts load leaves the focus where it is.
 * @param at where to look: the page
 */
export function useArrival(at: RefObject<HTMLElement | null>, to: 'heading' | 'field'): void {
  const { pathname } = useLocation();
  useEffect(() => {
    cameInAt ??= pathname;
    hasMoved ||= pathname !== cameInAt;
    const isLost = document.activeElement === null || document.activeElement === document.body;
    if (arrivedAt === pathname && !isLost) return;
    const field = to === 'field' ? (at.current?.querySelector<HTMLElement>(FIELDS) ?? null) : null;
    // A form whose fields are still on their way is not yet arrived at.
    if (to === 'heading' || field !== null) arrivedAt = pathname;
    if (field !== null) field.focus();
    // On the page one came in by the way past the frame comes first.
    else if (hasMoved) at.current?.querySelector<HTMLElement>('h1')?.focus({ preventScroll: true });
  }, [pathname, to, at]);
}
