import { bestSaving, compareRates, type OfferedRate } from '../../../../core/offer/compareRates.ts';
import { sayAmount } from '../../../../core/words/amount.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import type { Choosable } from '../../../parts/comboProps.ts';

/** The rates that can be sold now, each with its price in words and what it saves against another of its plan. */
export function rateChoices(plans: readonly PlanView[], businessDate: string): Choosable[] {
  return plans.flatMap((plan) => {
    const rates = plan.rates.filter(({ archivedOn }) => archivedOn === null);
    const compared = compareRates(rates as unknown as readonly OfferedRate[], businessDate);
    return rates.map(({ id, name, says }) => {
      const one = compared.get(id);
      const saving = one && bestSaving(one);
      const note = saving ? `${sayAmount(saving.saves, one.currency)} less ${saving.basis}` : '';
      return { value: id, label: `${plan.name}, ${name}`, detail: says, ...(note === '' ? {} : { note }) };
    });
  });
}

/** Those of some choices that hold every word that was typed, those that begin with the words first. */
export function choicesFor(choices: readonly Choosable[], typed: string): Choosable[] {
  const words = wordsOf(typed);
  const found = choices.filter(({ label, detail = '' }) => {
    const text = `${label} ${detail}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
  const begins = ({ label }: Choosable) =>
    words.filter((word) => wordsOf(label).some((one) => one.startsWith(word))).length;
  return found
    .map((one, at) => ({ one, at }))
    .sort((a, b) => begins(b.one) - begins(a.one) || a.at - b.at)
    .map(({ one }) => one);
}

const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .split(/[\s,]+/)
    .filter((word) => word !== '');
