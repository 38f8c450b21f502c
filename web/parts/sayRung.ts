import type { Rung } from '../../core/recovery/ladder.ts';

/** What a rung does, in a few words. */
export function sayRungShort({ retry, letter, tellsStaff, acts }: Rung): string {
  const does = [
    retry ? 'retry' : '',
    letter ? 'letter' : '',
    tellsStaff ? 'staff told' : '',
    acts?.kind === 'pause' ? 'service stopped' : '',
    acts?.kind === 'task' ? 'task' : '',
  ].filter(Boolean);
  return does.join(', ') || 'nothing yet';
}
