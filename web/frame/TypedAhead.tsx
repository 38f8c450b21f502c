import { useEffect } from 'react';

/** Stands for a field that is on its way: what is typed meanwhile is kept for it, and is no shortcut. */
export function TypedAhead({ onTyped }: { readonly onTyped: (change: (text: string) => string) => void }) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === 'Backspace') onTyped((text) => text.slice(0, -1));
      else if (event.key.length === 1) onTyped((text) => text + event.key);
      else return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener('keydown', onKey, { capture: true });
    return () => window.removeEventListener('keydown', onKey, { capture: true });
  }, [onTyped]);
  return null;
}
