import { useEffect } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { formatDay, toDay } from '../../core/dates/day.ts';

/** The keys that work everywhere outside of fields, with what they do. */
export const SHORTCUTS: readonly (readonly [string, string])[] = [
  ['/', 'find anything'],
  ['[ and ]', 'a day back, a day on'],
  ['Shift and a day', 'on the rail: what all days up to it come to'],
  ['1 to 4', 'Offer, Enrol, Collect, Recover'],
  ['9', 'Setup'],
  ['e', 'enrol a customer'],
  ['?', 'this list'],
];

const GROUPS: Readonly<Record<string, string>> = {
  '1': '/plans',
  '2': '/customers',
  '3': '/',
  '4': '/cases',
  '9': '/setup',
};

/** Listens for the shortcuts. */
export function useShortcuts(businessDate: string, show: { find: () => void; help: () => void }): void {
  const navigate = useNavigate();
  const { pathname } = useLocation();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const typing = target.closest('input, textarea, select, [contenteditable], [role="dialog"]') !== null;
      if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
      const shown = /^\/days\/([0-9-]+)/.exec(pathname)?.[1] ?? businessDate;
      const step = (days: number) => void navigate(`/days/${formatDay(toDay(shown) + days)}`);
      const group = GROUPS[event.key];
      if (event.key === '/') show.find();
      else if (event.key === '?') show.help();
      else if (event.key === '[') step(-1);
      else if (event.key === ']') step(1);
      else if (event.key === 'e') void navigate('/enrol');
      else if (group !== undefined) void navigate(group);
      else return;
      event.preventDefault();
    };
    document.addEventListener('keydown', onKey);
    return () => document.removeEventListener('keydown', onKey);
  });
}
