import type { Step } from './step.ts';
import { chargeWhatIsDue } from './steps/charges.ts';
import { climbLadders } from './steps/climbs.ts';
import { endSubscriptions, writeDigests } from './steps/ends.ts';
import { foldSums, foreseeByNewLaw, foreseeFurther } from './steps/foresight.ts';
import { forgetToldCards } from './steps/forgotten.ts';
import { askGatewaysInTrouble } from './steps/gateways.ts';
import { issueInvoices } from './steps/invoices.ts';
import { moveToVersions, tellOfMoves } from './steps/moves.ts';
import { tryNextMethods } from './steps/nextMethods.ts';
import {
  remindOfInvoices,
  remindOfMethods,
  tellOfCards,
  tellOfDues,
  tellOfRenewals,
} from './steps/notices.ts';
import { askForRefundsUnderWay } from './steps/refunds.ts';
import { settleTrials, tellOfTrials } from './steps/trials.ts';
import { askWhatIsUnderWay } from './steps/underWay.ts';

/**
 * What a day is: these steps, one after the other, each of them over before the next begins, whoever works. Every step
 * asks the database what is due and not done, so that a day that was cut short is simply taken up again, and one that
 * is turned twice changes nothing.
 */
export const DAY: readonly Step[] = [
  askGatewaysInTrouble,
  askWhatIsUnderWay,
  askForRefundsUnderWay,
  moveToVersions,
  settleTrials,
  issueInvoices,
  tellOfTrials,
  tellOfRenewals,
  tellOfCards,
  tellOfDues,
  tellOfMoves,
  chargeWhatIsDue,
  tryNextMethods,
  climbLadders,
  remindOfInvoices,
  remindOfMethods,
  endSubscriptions,
  foreseeByNewLaw,
  foreseeFurther,
];

/** What is done once a day is over, and not again. */
export const CLOSING: readonly Step[] = [writeDigests, foldSums, forgetToldCards];

/** What is looked at between the turns of two pages: whatever waits for an answer, or is to be foreseen anew. */
export const WAITING: readonly Step[] = [
  askGatewaysInTrouble,
  askWhatIsUnderWay,
  askForRefundsUnderWay,
  tryNextMethods,
  foreseeFurther,
];
