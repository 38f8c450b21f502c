import type { AskFacts } from './askForMethod.sql.ts';

/** Why a customer is not asked for a way to pay. */
export type NotAsked = 'nothing to charge' | 'has a card' | 'asked today';

/** Whether a customer may be asked for a way to pay on the day of the facts; null: yes. */
export function whyNotAsked(facts: AskFacts): NotAsked | null {
  if (!facts.runs) return 'nothing to charge';
  if (facts.canCharge) return 'has a card';
  return facts.wasAsked ? 'asked today' : null;
}
