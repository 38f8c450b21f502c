import { useState } from 'react';

type Edition = 'light' | 'dark';
const KEPT = 'edition';

/** The edition that was chosen before, or the one the device asks for. */
export function preferredEdition(): Edition {
  const kept = localStorage.getItem(KEPT);
  if (kept === 'light' || kept === 'dark') return kept;
  return window.matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
}

/** Puts an edition on the page. */
export function showEdition(edition: Edition): void {
  const { classList } = document.documentElement;
  classList.remove('light', 'dark');
  classList.add(edition);
  document.documentElement.style.colorScheme = edition;
}

/** The edition shown, and a way to change to the other. */
export function useEdition(): { edition: Edition; change: () => void } {
  const [edition, setEdition] = useState(preferredEdition);
  const change = () => {
    const other = edition === 'dark' ? 'light' : 'dark';
    localStorage.setItem(KEPT, other);
    showEdition(other);
    setEdition(other);
  };
  return { edition, change };
}
