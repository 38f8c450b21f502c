import { useState, type FocusEvent, type KeyboardEvent } from 'react';

/** Steps through the links that each key takes. */
export type Steps = Readonly<Record<string, number>>;

/**
 * A group of links that is one tab stop, moved in by arrow keys (WAI-ARIA Authoring Practices, roving tabindex).
 * The stop is the link that was last in focus, or `current` before any was.
 */
export function useRoving(current: string, steps: Steps) {
  const [stop, setStop] = useState<string | null>(null);
  const [stopOf, setStopOf] = useState(current);
  if (stopOf !== current) {
    setStopOf(current);
    setStop(null);
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const all = [...event.currentTarget.querySelectorAll<HTMLElement>('[data-stop]')];
    const at = all.findIndex((link) => link === document.activeElement);
    const step = steps[event.key];
    const to = event.key === 'Home' ? 0 : event.key === 'End' ? all.length - 1 : step && at + step;
    if (at === -1 || to === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    all[Math.min(Math.max(to, 0), all.length - 1)]?.focus();
  };
  const onFocus = (event: FocusEvent) => {
    const name = (event.target as HTMLElement).dataset.stop;
    if (name !== undefined) setStop(name);
  };
  return {
    group: { onKeyDown, onFocus },
    /** What one link of the group needs. */
    link: (name: string) => ({ 'data-stop': name, tabIndex: name === (stop ?? current) ? 0 : -1 }),
  };
}
