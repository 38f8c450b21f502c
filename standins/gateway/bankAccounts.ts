import express, { type Express } from 'express';
import { electronicFormatIBAN, isValidIBAN } from 'ibantools';
import { z } from 'zod';
import { accountOf, letBrowsersIn, problem } from './answers.ts';
import type { Behaviour } from './practiceCards.ts';
import type { Charge, Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

export interface PracticeAccount {
  readonly iban: string;
  readonly description: string;
  readonly behaviour: Behaviour;
}

/** Bank accounts to practise with, at a made-up bank; valid by the check digits of ISO 13616. */
export const PRACTICE_ACCOUNTS: readonly PracticeAccount[] = [
  { iban: 'GB44TARN00010100000001', description: 'Pays every debit', behaviour: {} },
  { iban: 'NL50TARN0000000123', description: 'Pays every debit', behaviour: {} },
  {
    iban: 'GB36TARN00010100000048',
    description: 'Returns: not enough money in the account',
    behaviour: { code: 'AM04' },
  },
  {
    iban: 'GB47TARN00010100000044',
    description: 'Returns: the account is closed',
    behaviour: { code: 'AC04' },
  },
  {
    iban: 'GB97TARN00010100000017',
    description: 'Returns the first debit for lack of money, then pays',
    behaviour: { code: 'AM04', firstTries: 1 },
  },
];

const accountSchema = z.strictObject({
  iban: z
    .string()
    .max(60)
    .transform((typed) => electronicFormatIBAN(typed) ?? ''),
  holder: z.string().trim().min(1).max(140),
});

/** Banks answer after so many days that are no Saturday or Sunday. */
const ANSWERS_AFTER_DAYS = 3;

/** Bank accounts are given by browsers with an account's public key, as cards are. */
export function bankAccounts(app: Express, vault: Vault): void {
  app.use('/v1/bank-accounts', express.json(), letBrowsersIn);

  /** Takes a bank account from a browser and gives a token for it. */
  app.post('/v1/bank-accounts', (request, response) => {
    const holder = accountOf(vault, request, 'public');
    if (!holder) return problem(response, 401, 'The public key is wrong.');
    if (!holder.abilities.methods.includes('bank debit'))
      return problem(response, 409, 'This account takes no bank debits.');
    const parsed = accountSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, 'Give the name of the holder.', 'holder');
    const { iban, holder: name } = parsed.data;
    if (!isValidIBAN(iban)) return problem(response, 422, 'That is not an IBAN. Check the digits.', 'iban');
    const practice = PRACTICE_ACCOUNTS.find((one) => one.iban === iban);
    if (!practice)
      return problem(response, 422, 'Only the practice accounts of the made-up bank are taken here.', 'iban');
    const { token } = vault.keepCard(
      {
        ...{ account: holder.account, network: 'bank account', lastFour: iban.slice(-4) },
        ...{ expiresYear: null, expiresMonth: null, holder: name, behaviour: practice.behaviour },
      },
      undefined,
      'account',
    );
    response.status(201).json({ token });
  });

  app.get('/v1/practice-accounts', (_request, response) => {
    response.set('Access-Control-Allow-Origin', '*');
    response.json(PRACTICE_ACCOUNTS.map(({ iban, description }) => ({ iban, description })));
  });

  app.get('/v1/bank-accounts/:token', (request, response) => {
    const account = accountOf(vault, request, 'secret');
    if (!account) return problem(response, 401, 'The secret key is wrong, or it was revoked.');
    const found = vault.cards.get(request.params.token);
    if (found?.account !== account.account || found.expiresYear !== null)
      return problem(response, 404, 'There is no such bank account.');
    const { token, lastFour, holder = '' } = found;
    response.json({ token, lastFour, holder });
  });
}

/** The day on which the banks answer a debit that is submitted on a day, `YYYY-MM-DD`. */
export function answeredOn(submitted: string): string {
  const day = new Date(`${submitted}T00:00:00Z`);
  for (let left = ANSWERS_AFTER_DAYS; left > 0;) {
    day.setUTCDate(day.getUTCDate() + 1);
    if (day.getUTCDay() !== 0 && day.getUTCDay() !== 6) left -= 1;
  }
  return day.toISOString().slice(0, 10);
}

/**
 * What was submitted is answered once the day is told to have come: this gateway has no clock of its own. Each answer is told by
 * a webhook too.
 */
export function answerSubmitted(
  vault: Vault,
  webhooks: WebhookSender,
  account: string,
  on: string,
  decide: (charge: Charge) => string,
): void {
  for (const charge of vault.submittedOf(account)) {
    if (charge.expectedOn === undefined || charge.expectedOn > on) continue;
    const code = decide(charge);
    const { expectedOn: _, ...made } = charge;
    const state = code === '00' ? 'collected' : 'declined';
    const answered: Charge = { ...made, state, code };
    vault.keepCharge(answered);
    webhooks.send(account, `money.${state}`, answered, false);
  }
}
