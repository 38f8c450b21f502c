import type { Express } from 'express';
import { expect } from 'vitest';
import { formatDay, toDay } from '../core/dates/day.ts';
import { makeApp } from '../server/http/app.ts';
import { asking, signedIn } from './door.ts';
import type { World } from './world.ts';

type Ask = ReturnType<typeof asking>;

/** A business that sells: plans are made and customers enrolled as staff do it, through the door. */
export class Offering {
  private people = 0;

  private constructor(
    readonly world: World,
    readonly app: Express,
    readonly ask: Ask,
    readonly stranger: Ask,
  ) {}

  static async of(world: World): Promise<Offering> {
    const { app } = makeApp(world.almanac, world.almanac.config, '/nowhere');
    return new Offering(world, app, asking(app, (await signedIn(world, 'owner')).cookie), asking(app));
  }

  /** What a command gives back; it must be done. */
  async done<Body = { id: string }>(
    method: 'get' | 'post' | 'put' | 'delete',
    path: string,
    body?: object,
  ): Promise<Body> {
    const answer = await this.ask(method, path, body);
    expect(answer.status, JSON.stringify(answer.body)).toBeLessThan(300);
    return answer.body as Body;
  }

  /** Makes a plan of one rate; gives the ids of both. */
  async plan(
    facts: object,
    terms: object,
    options: object = {},
  ): Promise<{ planId: string; rateId: string }> {
    const rate = { name: 'Only', terms: { currency: 'GBP', interval: 'P1M', ...terms }, options };
    const { id: planId } = await this.done('post', '/api/plans', { name: 'Plan', ...facts, rate });
    const { rates } = await this.done<{ rates: { id: string }[] }>('get', `/api/plans/${planId}`);
    return { planId, rateId: rates[0]?.id ?? '' };
  }

  /** Enrols somebody new with a good card, or as it is asked; gives the answer as it came. */
  async enrol(rateId: string, more: object = {}, card = true) {
    this.people += 1;
    const n = this.people;
    const token = `card-of-somebody-${n}`;
    if (card) await this.world.moveCards([{ token, behaviour: {} }]);
    return this.ask('post', '/api/subscriptions', {
      customer: {
        name: `P ${n}`,
        email: `p${n}@post.example`,
        ...('group' in more ? { group: more.group } : {}),
      },
      rateId,
      starts: await this.today(),
      ...(card ? { cardToken: token } : {}),
      ...Object.fromEntries(Object.entries(more).filter(([name]) => name !== 'group')),
    });
  }

  /** The same, which must be done; gives the subscription's id. */
  async enrolled(rateId: string, more: object = {}, card = true): Promise<string> {
    const answer = await this.enrol(rateId, more, card);
    expect(answer.status, JSON.stringify(answer.body)).toBe(201);
    return answer.body.id as string;
  }

  /** Changes what is known of a customer, all else staying as it is; gives the answer as it came. */
  async changeCustomer(id: string, to: object) {
    const {
      version,
      id: _,
      reference: __,
      createdOn: ___,
      ...value
    } = await this.done<Record<string, unknown> & { version: number }>('get', `/api/customers/${id}`);
    return this.ask('put', `/api/customers/${id}`, { version, value: { ...value, ...to } });
  }

  async today(): Promise<string> {
    return (await this.done<{ businessDate: string }>('get', '/api/business')).businessDate;
  }

  /** The business day so many days from now. */
  async later(days: number): Promise<string> {
    return formatDay(toDay(await this.today()) + days);
  }

  /** What was invoiced of a subscription, oldest first: day and total. */
  async invoiced(id: string): Promise<string[]> {
    const rows = await this.world.almanac.db.rows<{ said: string }>(
      `select period_from || ' ' || total as said from invoices where subscription_id = $id order by id`,
      { id },
    );
    return rows.map(({ said }) => said);
  }
}
