import type { Request, Response } from 'express';
import type { Account } from './accounts.ts';
import type { Vault } from './vault.ts';

/** Answers with a problem document of RFC 9457. */
export function problem(response: Response, status: number, detail: string, field?: string): void {
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ status, detail, ...(field ? { field } : {}) }));
}

/** The account whose key a request bears, or null. */
export function accountOf(vault: Vault, request: Request, key: 'secret' | 'public'): Account | null {
  const [, borne] = /^Bearer (.+)$/.exec(request.get('Authorization') ?? '') ?? [];
  if (borne === undefined) return null;
  for (const account of vault.accounts.values()) {
    const good =
      key === 'public'
        ? account.publicKey === borne
        : account.secretKey === borne || account.tokens.includes(borne);
    if (good) return account;
  }
  return null;
}

/** A page of the stand-in's own. `body` is HTML; what comes from outside goes through `escaped` first. */
export function sendPage(response: Response, title: string, body: string, refresh = false): void {
  response
    .set(
      'Content-Security-Policy',
      "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; frame-ancestors 'none'",
    )
    .set('Referrer-Policy', 'no-referrer')
    .type('html').send(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
${refresh ? '<meta http-equiv="refresh" content="2">' : ''}<title>${escaped(title)}</title>
<style>
  body { font: 16px/1.5 system-ui, sans-serif; margin: 0; background: #e9e6df; color: #24211b; }
  main { max-width: 560px; margin: 6vh auto; background: #fffdf8; padding: 28px 32px; border: 1px solid #cfc8b8; }
  h1 { font-size: 22px; margin: 0 0 4px; } p.small { color: #645c4c; margin: 0 0 20px; }
  form { margin: 0 0 10px; } button { font: inherit; padding: 8px 14px; border: 1px solid #24211b; background: #fffdf8; cursor: pointer; text-align: left; }
  button.wide { width: 100%; } button:hover { background: #f0ead9; } .big { font-size: 44px; margin: 18px 0; }
</style></head><body><main><h1>${escaped(title)}</h1>
<p class="small">The gateway stand-in: a practice service, no real money.</p>${body}</main></body></html>`);
}

export function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (sign) => `&#${sign.charCodeAt(0)};`);
}

/** The page of a payment that nothing more can be done about. */
export function sendOver(response: Response, returnUrl: string): void {
  const back = `<p><a href="${escaped(returnUrl)}">Go back</a></p>`;
  sendPage(response, 'This payment is over', `<p>Nothing more can be paid here.</p>${back}`);
}

/** What a payer is asked: what for, how much, and a button for each thing they can do. */
export function choicesOf(
  reference: string,
  sum: string,
  choices: readonly (readonly [string, string, ...unknown[]])[],
): string {
  const buttons = choices.map(
    ([what, says]) =>
      `<form method="post"><input type="hidden" name="what" value="${what}"><button class="wide">${escaped(says)}</button></form>`,
  );
  return `<p>${escaped(reference)}</p><p class="big">${escaped(sum)}</p>${buttons.join('')}`;
}

/** An amount in minor units as its currency writes it. */
export function sayMinor(amount: string, currency: string): string {
  const format = new Intl.NumberFormat('en-GB', { style: 'currency', currency });
  return format.format(Number(amount) / 10 ** (format.resolvedOptions().maximumFractionDigits ?? 2));
}

/** Lets pages of other origins post with a public key, as every browser asks before it does. */
export function letBrowsersIn(request: Request, response: Response, next: () => void): void {
  response.set({
    'Access-Control-Allow-Origin': '*',
    'Access-Control-Allow-Headers': 'Authorization, Content-Type',
    'Access-Control-Allow-Methods': 'POST',
  });
  if (request.method === 'OPTIONS') response.sendStatus(204);
  else next();
}
