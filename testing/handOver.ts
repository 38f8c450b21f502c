import { expect } from 'vitest';
import type { asking } from './door.ts';

/** Chooses an account on the gateway's own page, as its holder would, and gives where the browser is sent then. */
export async function chooseAccount(url: string, account: string): Promise<URL> {
  const page = await (await fetch(url)).text();
  expect(page).toContain('Hand over');
  const body = new URLSearchParams([...new URL(url).searchParams, ['account', account]]);
  const answer = await fetch(new URL('/oauth/authorise', url), { method: 'POST', body, redirect: 'manual' });
  return new URL(answer.headers.get('location') ?? '');
}

/** Connects an account of the gateway by a hand-over; gives its id here. */
export async function handOver(ask: ReturnType<typeof asking>, account: string): Promise<string> {
  const { url } = (await ask('post', '/api/gateways/hand-over')).body;
  const back = await chooseAccount(url, account);
  const [code, state] = ['code', 'state'].map((name) => back.searchParams.get(name));
  return (await ask('post', '/api/gateways/hand-over/end', { code, state })).body.id;
}
