import { randomUUID } from 'node:crypto';
import { expect } from 'vitest';
import type { Behaviour } from '../standins/gateway/practiceCards.ts';
import type { JoinMessage, Joined, PublicPage, Quote, SignUpPageInput } from '../server/signUp/messages.ts';
import type { Offering } from './offering.ts';

/** Sign-up pages of a business that sells, and strangers who join on them. */
export class SignUps {
  private people = 0;

  constructor(private readonly offering: Offering) {}

  /** Makes a page of rates and turns it on. */
  async page(
    rates: readonly string[],
    facts: Partial<SignUpPageInput> = {},
  ): Promise<{ id: string; key: string }> {
    const key = facts.key ?? `page-${randomUUID().slice(0, 8)}`;
    const value = {
      ...{ key, rates: [...rates], firstRate: rates[0] ?? '', texts: { en: { title: `Join ${key}` } } },
      ...facts,
    };
    const { id } = await this.offering.done('post', '/api/sign-up-pages', value);
    await this.offering.done('put', `/api/sign-up-pages/${id}/on`, { on: true });
    return { id, key };
  }

  /** Changes a page, all else staying as it is. */
  async change(id: string, to: Partial<SignUpPageInput>): Promise<void> {
    const page = await this.offering.done<{ version: number; value: SignUpPageInput }>(
      'get',
      `/api/sign-up-pages/${id}`,
    );
    const value = { ...page.value, ...to };
    await this.offering.done('put', `/api/sign-up-pages/${id}`, { version: page.version, value });
  }

  async open(key: string): Promise<PublicPage> {
    const answer = await this.offering.stranger('get', `/api/join/${key}`);
    expect(answer.status, JSON.stringify(answer.body)).toBe(200);
    return answer.body as PublicPage;
  }

  async quote(key: string, choice: JoinMessage['choice'], more: object = {}): Promise<Quote> {
    const answer = await this.offering.stranger('post', `/api/join/${key}/quote`, { choice, ...more });
    expect(answer.status, JSON.stringify(answer.body)).toBe(200);
    return answer.body as Quote;
  }

  /** What somebody new sends who has read the page and joins with a card of some behaviour. */
  async filledIn(
    key: string,
    more: Partial<Omit<JoinMessage, 'customer'>> & { readonly customer?: object } = {},
    behaviour: Behaviour = {},
  ): Promise<JoinMessage> {
    this.people += 1;
    const n = this.people;
    const page = await this.open(key);
    const choice = more.choice ?? { rateId: page.firstRate };
    const pays = more.pays ?? 'card';
    const shown = more.shown ?? (await this.quote(key, choice, pays === 'later' ? {} : { pays })).dues;
    const cardToken = `card-of-joiner-${n}-${randomUUID().slice(0, 8)}`;
    if (pays === 'card') await this.offering.world.moveCards([{ token: cardToken, behaviour }]);
    return {
      ...{ visit: randomUUID(), version: page.version, language: page.language, pays, choice },
      ...(pays === 'card' ? { cardToken } : {}),
      agreed: page.policies.map(({ id }) => id),
      ...more,
      customer: { name: `Joiner ${n}`, email: `joiner${n}@post.example`, ...more.customer },
      shown: [...shown],
    };
  }

  /** Sends it; gives the answer as it came. */
  send(key: string, message: JoinMessage, from = '203.0.113.7') {
    return this.offering.stranger('post', `/api/join/${key}/joining`, message).set('X-Forwarded-For', from);
  }

  /** Joins, which must be done. */
  async joined(
    key: string,
    ...filled: Parameters<SignUps['filledIn']> extends [string, ...infer Rest] ? Rest : never
  ): Promise<Joined> {
    const answer = await this.send(key, await this.filledIn(key, ...filled));
    expect(answer.status, JSON.stringify(answer.body)).toBe(201);
    return answer.body as Joined;
  }

  /** The newest subscription of whoever has an address, with what is known of them. */
  async joinedWith(email: string): Promise<Record<string, unknown>> {
    const [row] = await this.offering.world.almanac.db.rows<Record<string, unknown>>(
      `select s.*, c.name, c.organisation, c.country from subscriptions s join customers c on c.id = s.customer_id
       where c.email = $email order by s.id desc`,
      { email },
    );
    return row ?? {};
  }
}

/** How a refusal answered, and beside which field. */
export const refusedAt = (answer: {
  readonly status: number;
  readonly body: { readonly errors?: readonly { readonly pointer: string }[] };
}) => [answer.status, answer.body.errors?.[0]?.pointer];
