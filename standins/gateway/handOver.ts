import { createHash, randomBytes } from 'node:crypto';
import express, { type Express } from 'express';
import { randomKey } from './accounts.ts';
import { escaped, problem, sendPage } from './answers.ts';
import type { Vault } from './vault.ts';

interface Given {
  readonly account: string;
  readonly redirectUri: string;
  readonly challenge: string;
  readonly until: number;
}

/** A code from the authorisation page is good for one exchange within so long. */
const CODE_MS = 5 * 60_000;

/**
 * The hand-over of an account: OAuth 2.0 with an authorisation code (RFC 6749) and PKCE (RFC 7636, S256 alone).
 * The holder chooses an account on the gateway's own page; the product exchanges the code for a key, and may
 * revoke that again (RFC 7009).
 */
export function handOver(app: Express, vault: Vault): void {
  const codes = new Map<string, Given>();

  app.get('/oauth/authorise', (request, response) => {
    const asked = Object.fromEntries(
      ['response_type', 'client_id', 'redirect_uri', 'state', 'code_challenge', 'code_challenge_method'].map(
        (name) => [name, typeof request.query[name] === 'string' ? request.query[name] : ''],
      ),
    ) as Record<string, string>;
    const good =
      asked.response_type === 'code' &&
      asked.code_challenge_method === 'S256' &&
      /^[\w-]{43}$/.test(asked.code_challenge ?? '') &&
      /^https?:\/\//.test(asked.redirect_uri ?? '');
    if (!good) return problem(response, 400, 'This request to hand over an account is not complete.');
    const hidden = Object.entries(asked)
      .map(([name, value]) => `<input type="hidden" name="${name}" value="${escaped(value)}">`)
      .join('');
    const choices = [...vault.accounts.values()]
      .map(
        ({ account, name, kind, stage }) =>
          `<form method="post" action="/oauth/authorise">${hidden}<input type="hidden" name="account" value="${escaped(account)}">
           <button class="wide">Hand over <b>${escaped(name)}</b><br><small>${escaped(kind)}, ${stage}</small></button></form>`,
      )
      .join('');
    sendPage(
      response,
      'Hand over an account',
      `<p><b>${escaped(asked.client_id ?? '')}</b> asks to charge and refund in the name of one of your accounts, and to read its record. Which one?</p>
       ${choices}<form method="post" action="/oauth/authorise">${hidden}<button>Refuse</button></form>`,
    );
  });

  app.post('/oauth/authorise', express.urlencoded({ extended: false }), (request, response) => {
    const asked = request.body as Record<string, string | undefined>;
    let back: URL;
    try {
      back = new URL(asked.redirect_uri ?? '');
    } catch {
      return problem(response, 400, 'There is no address to go back to.');
    }
    back.searchParams.set('state', asked.state ?? '');
    const account = vault.accounts.get(asked.account ?? '');
    if (!account) back.searchParams.set('error', 'access_denied');
    else {
      const code = randomBytes(24).toString('base64url');
      codes.set(code, {
        account: account.account,
        redirectUri: asked.redirect_uri ?? '',
        challenge: asked.code_challenge ?? '',
        until: Date.now() + CODE_MS,
      });
      back.searchParams.set('code', code);
    }
    response.redirect(303, back.href);
  });

  app.post('/oauth/token', express.urlencoded({ extended: false }), (request, response) => {
    const asked = request.body as Record<string, string | undefined>;
    const given = codes.get(asked.code ?? '');
    codes.delete(asked.code ?? '');
    const proof = createHash('sha256')
      .update(asked.code_verifier ?? '')
      .digest('base64url');
    const account = given && vault.accounts.get(given.account);
    const good =
      asked.grant_type === 'authorization_code' &&
      given !== undefined &&
      given.until > Date.now() &&
      given.redirectUri === asked.redirect_uri &&
      given.challenge === proof;
    if (!good || !account) {
      response.status(400).json({ error: 'invalid_grant' });
      return;
    }
    const token = randomKey();
    vault.keepAccount({ ...account, tokens: [...account.tokens, token] });
    response.set('Cache-Control', 'no-store').json({ access_token: token, token_type: 'Bearer' });
  });

  app.post('/oauth/revoke', express.urlencoded({ extended: false }), (request, response) => {
    const { token } = request.body as { token?: string };
    for (const account of vault.accounts.values()) {
      if (token !== undefined && account.tokens.includes(token))
        vault.keepAccount({ ...account, tokens: account.tokens.filter((one) => one !== token) });
    }
    response.sendStatus(200);
  });
}
