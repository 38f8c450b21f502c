import { createHash, randomBytes } from 'node:crypto';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { seal, unseal } from '../secrets/seal.ts';
import { GatewayAccount } from './GatewayAccount.ts';
import { keyPlace, webhookPlace } from './Gateways.ts';
import { settleTroubles } from './health.ts';
import { AccountTrouble, KeyRefused } from './port.ts';

/** A hand-over must come back within so many minutes. */
const HANDOVER_MINUTES = 15;
/** The webhook secret before a rotation is still taken for so many hours. */
export const EARLIER_HOURS = 24;

/**
 * Connects an account by its secret key: asks the gateway what it is, names where webhooks go, and keeps the key
 * sealed. An account that was connected before is taken up again, with the cards it holds.
 */
export async function connectByKey(
  almanac: Almanac,
  secretKey: string,
  connectedBy: GatewayAccount['connectedBy'],
): Promise<GatewayAccount> {
  const address = almanac.config.GATEWAY_URL;
  const gateway = almanac.gateways.at(address, secretKey);
  const facts = await gateway.account().catch(sayWhy);
  const today = await businessDateOf(almanac);
  const known = await GatewayAccount.findOne({ where: { address, account: facts.account } });
  if (known && known.disconnectedOn === null)
    throw new RefusedCommand(409, `${facts.name} is connected already.`, '/key');
  const value = {
    address,
    account: facts.account,
    name: facts.name,
    kind: facts.kind,
    publicKey: facts.publicKey,
    secretKey: seal(almanac, keyPlace({ address, account: facts.account }), secretKey),
    connectedBy,
    connectedOn: today,
    disconnectedOn: null,
    facts,
    askedAt: new Date(),
    well: true,
    health: '',
    wellSince: new Date(),
  };
  const account = known ? await known.update(value) : await GatewayAccount.create(value);
  await almanac.db.transaction((within) => settleTroubles(almanac, account, today, within));
  const secret = await gateway.nameWebhook(webhookAddress(almanac, account)).catch(sayWhy);
  await account.update({
    webhookSecret: seal(almanac, webhookPlace(account), secret),
    earlierWebhookSecret: null,
  });
  await recordDone(almanac, {
    did: 'connected a gateway account',
    subject: facts.name,
    after: { account: facts.account, kind: facts.kind, by: connectedBy },
  });
  return account;
}

const webhookAddress = (almanac: Almanac, { id }: GatewayAccount) =>
  `${almanac.config.ALMANAC_URL}/hooks/gateways/${id}`;

/** In the words of the form: why the gateway could not be asked. */
function sayWhy(error: unknown): never {
  if (error instanceof KeyRefused) throw new RefusedCommand(422, error.message, '/key');
  if (error instanceof AccountTrouble) {
    throw new RefusedCommand(
      503,
      'The gateway does not answer just now. Nothing was changed; try again in a minute.',
    );
  }
  throw error;
}

/** Begins a hand-over: gives the address at the gateway where its holder says yes or no (RFC 6749, RFC 7636). */
export async function beginHandOver(almanac: Almanac): Promise<{ url: string }> {
  const { personId } = askerNow();
  if (personId === null) throw new RefusedCommand(403, 'A hand-over is begun by a person who is signed in.');
  const state = randomBytes(32).toString('base64url');
  const verifier = randomBytes(48).toString('base64url');
  await almanac.db.rows('delete from gateway_handovers where expires_at < now()');
  await almanac.db.rows(
    `insert into gateway_handovers (state_hash, person_id, verifier, expires_at)
     values ($hash, $personId, $verifier, now() + make_interval(mins => $minutes))`,
    {
      hash: hashOf(state),
      personId,
      verifier: seal(almanac, 'hand-over', verifier),
      minutes: HANDOVER_MINUTES,
    },
  );
  const url = new URL('/oauth/authorise', almanac.config.GATEWAY_URL);
  url.search = new URLSearchParams({
    response_type: 'code',
    client_id: 'keen-almanac',
    redirect_uri: returnAddress(almanac),
    state,
    code_challenge: createHash('sha256').update(verifier).digest('base64url'),
    code_challenge_method: 'S256',
  }).toString();
  return { url: url.href };
}

const returnAddress = (almanac: Almanac) => `${almanac.config.ALMANAC_URL}/setup/gateways/return`;

/** Ends a hand-over that this person began: exchanges the code for a key and connects the account. */
export async function endHandOver(
  almanac: Almanac,
  given: { readonly state: string; readonly code: string },
): Promise<GatewayAccount> {
  const begun = await almanac.db.row<{ verifier: string; person_id: string; good: boolean }>(
    'delete from gateway_handovers where state_hash = $hash returning verifier, person_id, expires_at > now() as good',
    { hash: hashOf(given.state) },
  );
  if (!begun?.good || begun.person_id !== askerNow().personId) {
    throw new RefusedCommand(
      410,
      'This hand-over was not begun here, was ended already, or is too old. Nothing was connected: begin again.',
    );
  }
  const body = new URLSearchParams({
    grant_type: 'authorization_code',
    code: given.code,
    redirect_uri: returnAddress(almanac),
    client_id: 'keen-almanac',
    code_verifier: unseal(almanac, 'hand-over', begun.verifier),
  });
  let response: Response;
  try {
    response = await fetch(new URL('/oauth/token', almanac.config.GATEWAY_URL), {
      method: 'POST',
      body,
      redirect: 'error',
      signal: AbortSignal.timeout(almanac.config.GATEWAY_TIMEOUT_MS),
    });
  } catch {
    throw new RefusedCommand(
      503,
      'The gateway does not answer just now. Begin the hand-over again in a minute.',
    );
  }
  const answer = z
    .object({ access_token: z.string().min(16) })
    .safeParse(await response.json().catch(() => null));
  if (!response.ok || !answer.success) {
    throw new RefusedCommand(422, 'The gateway did not exchange the hand-over for a key. Begin it again.');
  }
  return connectByKey(almanac, answer.data.access_token, 'hand-over');
}

const hashOf = (text: string) => createHash('sha256').update(text).digest();

/** What would stop if an account were disconnected: the cards it holds and the subscriptions they pay. */
export async function whatStops(
  almanac: Almanac,
  id: string,
): Promise<{ cards: number; subscriptions: number; rates: string[] }> {
  const counted = await almanac.db.row<{ cards: number; subscriptions: number }>(
    `select count(distinct m.id)::int as cards, count(distinct s.id)::int as subscriptions
     from payment_methods m left join subscriptions s
       on s.customer_id = m.customer_id and s.state not in ('lapsed', 'ended')
     where m.gateway_account_id = $id and m.state <> 'replaced'`,
    { id },
  );
  const others = (await almanac.gateways.connected()).filter((account) => account.id !== id);
  const left = new Set(others.flatMap(({ facts }) => (facts.mayCharge ? facts.abilities.currencies : [])));
  const rates = await almanac.db.rows<{ says: string; currency: string }>(
    `select p.name || ', ' || r.name as says, r.terms->>'currency' as currency
     from rates r join plans p on p.id = r.plan_id where p.archived_on is null order by 1`,
  );
  return {
    cards: counted?.cards ?? 0,
    subscriptions: counted?.subscriptions ?? 0,
    rates: rates.filter(({ currency }) => !left.has(currency)).map(({ says }) => says),
  };
}

/**
 * Disconnects an account: its key is forgotten and revoked. Its cards stay on record and cannot be charged until
 * it is connected again; invoices due meanwhile wait, and nothing counts as declined.
 */
export async function disconnect(almanac: Almanac, id: string, version: number): Promise<void> {
  const today = await businessDateOf(almanac);
  const account = await findAccount(id);
  if (account.version !== version)
    throw new RefusedCommand(409, 'This account has been changed since you opened it. Look again.');
  const gateway = almanac.gateways.of(account);
  const key = unseal(almanac, keyPlace(account), account.secretKey);
  const stops = await whatStops(almanac, id);
  await almanac.db.transaction(async (within) => {
    await account.update(
      {
        disconnectedOn: today,
        secretKey: '',
        webhookSecret: null,
        earlierWebhookSecret: null,
        version: version + 1,
      },
      { transaction: within },
    );
    await recordDone(
      almanac,
      { did: 'disconnected a gateway account', subject: account.name, before: stops },
      within,
    );
  });
  // The gateway is told as well as may be; ours is forgotten already.
  await gateway.forgetWebhook().catch(() => undefined);
  if (account.connectedBy === 'hand-over') {
    await fetch(new URL('/oauth/revoke', account.address), {
      method: 'POST',
      body: new URLSearchParams({ token: key }),
      redirect: 'error',
      signal: AbortSignal.timeout(almanac.config.GATEWAY_TIMEOUT_MS),
    }).catch(() => undefined);
  }
}

/** Gets a new webhook secret; the one before is taken for a day more, so that nothing under way is lost. */
export async function rotateWebhookSecret(almanac: Almanac, id: string): Promise<void> {
  const account = await findAccount(id);
  const secret = await almanac.gateways.of(account).rotateWebhookSecret().catch(sayWhy);
  await account.update({
    earlierWebhookSecret: account.webhookSecret,
    earlierUntil: new Date(Date.now() + EARLIER_HOURS * 3_600_000),
    webhookSecret: seal(almanac, webhookPlace(account), secret),
  });
  await recordDone(almanac, { did: 'rotated a webhook secret', subject: account.name });
}

/** A connected account, or a refusal. */
export async function findAccount(id: string): Promise<GatewayAccount> {
  const account = await GatewayAccount.findOne({ where: { id, disconnectedOn: null } });
  if (!account) throw new RefusedCommand(404, 'There is no such account, or it is not connected.');
  return account;
}
