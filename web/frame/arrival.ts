import { useEffect, type RefObject } from 'react';
import { useLocation } from 'react-router';

const FIELDS =
  'input:not([type="hidden"]):not(:disabled):not([tabindex="-1"]), select:not(:disabled), textarea:not(:disabled), [contenteditable="true"]';

/** The path whose page has the focus already, so that what loads later on it takes nothing away from whoever types. */
let arrivedAt: string | null = null;

/**
 * After a move the focus is on the page's heading, or on the first field of a form: never nowhere. A page that is
 * shown again while its parts load leaves the focus where it is.
 * @param at where to look: the page
 */
export function useArrival(at: RefObject<HTMLElement | null>, to: 'heading' | 'field'): void {
  const { pathname } = useLocation();
  useEffect(() => {
    const isLost = document.activeElement === null || document.activeElement === document.body;
    const isFirst = arrivedAt === null;
    if (arrivedAt === pathname && !isLost) return;
    const place = (to === 'field' ? at.current?.querySelector<HTMLElement>(FIELDS) : null) ?? null;
    const heading = at.current?.querySelector<HTMLElement>('h1') ?? null;
    // A form whose fields are still on their way is not yet arrived at.
    if (to === 'heading' || place !== null) arrivedAt = pathname;
    // On the very first page the browser's own order holds, so that the way past the frame comes first.
    if (isFirst && to === 'heading') return;
    (place ?? heading)?.focus({ preventScroll: place === null });
  }, [pathname, to, at]);
}
