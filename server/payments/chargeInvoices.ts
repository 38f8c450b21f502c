import { sayAmount } from '../../core/words/amount.ts';
import { statementText } from '../../core/words/statementText.ts';
import type { Almanac } from '../almanac.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { noteHealth } from '../gateways/health.ts';
import { AskedTooFast, Disconnected, type ChargeOutcome, type SettledCharge } from '../gateways/port.ts';
import { queueReceipts } from '../notices/receipts.ts';
import { anybodyToldAtOnce, tellStaff } from '../staff/notices.ts';
import { Attempt, type StoredRequest } from './Attempt.ts';
import { find } from './askGateway.ts';
import {
  lockChargeable,
  noteUnsent,
  settleCollected,
  writeAttempts,
  type Chargeable,
  type CollectedCharge,
} from './charging.sql.ts';
import { occasionKey } from './occasion.ts';
import { conclude } from './outcome.ts';
import { settleAttempt } from './settleAttempt.ts';
import { writePayments } from './writePayments.ts';

/** Results are written so many at a time, while the gateway is asked for others. */
const WRITTEN_AT_ONCE = 100;
/** A charge that was asked for too fast is asked for again so often before its account waits. */
const MOST_RESTS = 6;

/** One charge that was stored and is to be asked for. */
interface Prepared extends Chargeable {
  readonly attemptId: string;
  readonly account: GatewayAccount;
  readonly idempotencyKey: string;
  readonly request: StoredRequest;
}

/**
 * Charges invoices that were never tried, in a fixed number of statements: their attempts are stored with their keys and
 * requests, the gateway is asked side by side with no transaction open, and what it collected is written as it comes.
 * What is not that plain (several dues, a case, a card that is not usable, a decline) takes the careful way.
 * @returns the invoices that are left to `collectInvoice`
 */
export async function chargeInvoices(
  almanac: Almanac,
  ids: readonly string[],
  businessDate: string,
  signal: AbortSignal,
): Promise<string[]> {
  const accounts = new Map((await GatewayAccount.findAll()).map((account) => [account.id, account]));
  const prepared = await prepare(almanac, ids, accounts, businessDate);
  const taken = new Set(prepared.map(({ invoiceId }) => invoiceId));
  const results = new Results(almanac, businessDate);
  const unsent: string[] = [];
  const said = new Set<string>();
  const going = new AbortController();
  const stop = AbortSignal.any([signal, going.signal]);
  // They stand in line at the lanes of their account in the order given: the charges of one batch are made before those
  // of the next, which is prepared meanwhile.
  const asked = prepared.map(async (one) => {
    const outcome = await ask(almanac, one, stop);
    if (outcome === 'stopped') return;
    if (outcome !== 'waits') return results.take(one, outcome);
    unsent.push(one.attemptId);
    if (one.account.disconnectedOn === null || said.has(one.accountId)) return;
    said.add(one.accountId);
    await results.take(one, { kind: 'account', trouble: new Disconnected(), didNothing: true });
  });
  await Promise.all(asked).finally(() => going.abort());
  await results.end();
  await noteUnsent(almanac, unsent);
  signal.throwIfAborted();
  return ids.filter((id) => !taken.has(id));
}

function prepare(
  almanac: Almanac,
  ids: readonly string[],
  accounts: ReadonlyMap<string, GatewayAccount>,
  businessDate: string,
): Promise<Prepared[]> {
  return almanac.db.transaction(async (within) => {
    const chargeable = (await lockChargeable(almanac, ids, within)).map((one) => {
      const account = accounts.get(one.accountId);
      if (!account) throw new Error(`There is no gateway account ${one.accountId}.`);
      const request = requestOf(one, account, businessDate);
      return {
        ...one,
        account,
        request,
        idempotencyKey: occasionKey(one.instance, one.invoiceId, 'renewal'),
      };
    });
    const idOf = await writeAttempts(
      almanac,
      chargeable.map(({ request, ...one }) => ({
        ...one,
        amount: request.amount,
        channel: request.channel,
        request: JSON.stringify(request),
      })),
      businessDate,
      within,
    );
    return chargeable.map((one) => ({ ...one, attemptId: idOf.get(one.idempotencyKey) ?? '' }));
  });
}

function requestOf(one: Chargeable, account: GatewayAccount, businessDate: string): StoredRequest {
  const isFirst = one.hadTrial && one.kind !== 'trial' && !one.chargedBefore;
  const most = account.facts.abilities?.statementText.most ?? one.planText.length;
  return {
    token: one.token,
    amount: one.owed,
    currency: one.currency,
    statementText: statementText(one.planText, isFirst, most),
    reference: `invoice ${one.number}`,
    channel: one.channel ?? 'import',
    businessDate,
  };
}

/**
 * Asks for one charge; gives that it waits where its account cannot be asked, and this was surely not done, and that it
 * was stopped where nothing more is to be begun.
 */
async function ask(
  almanac: Almanac,
  { account, request, idempotencyKey }: Prepared,
  stop: AbortSignal,
): Promise<ChargeOutcome | 'waits' | 'stopped'> {
  const gateway = almanac.gateways.of(account);
  const lanes = almanac.gateways.lanesOf(account);
  const asked = { ...request, idempotencyKey, amount: BigInt(request.amount) };
  for (let rests = 0; ; rests += 1) {
    const outcome = await lanes.run(async () => {
      if (stop.aborted) return 'stopped' as const;
      return almanac.gateways.troubleNow(account) ? ('waits' as const) : gateway.charge(asked);
    });
    if (outcome === 'waits' || outcome === 'stopped') return outcome;
    if (outcome.kind === 'unknown') return find(gateway, idempotencyKey, request.businessDate);
    const tooFast =
      outcome.kind === 'account' && outcome.trouble instanceof AskedTooFast ? outcome.trouble : null;
    if (tooFast && outcome.kind === 'account' && outcome.didNothing && rests < MOST_RESTS) {
      lanes.slowDown(tooFast.restMs);
      continue;
    }
    if (outcome.kind === 'settled') lanes.wentWell();
    return outcome;
  }
}

/** Takes the gateway's answers: what was collected is written many at a time, everything else by itself. */
class Results {
  private collected: { readonly of: Prepared; readonly charge: SettledCharge }[] = [];
  private readonly writing = new Set<Promise<void>>();
  private failure: unknown = null;

  constructor(
    private readonly almanac: Almanac,
    private readonly on: string,
  ) {}

  async take(of: Prepared, outcome: ChargeOutcome): Promise<void> {
    const { almanac, on } = this;
    const { account } = of;
    if (outcome.kind === 'settled' && isPlain(of, outcome.charge)) {
      if (!account.well) await noteHealth(almanac, account, null);
      this.collected.push({ of, charge: outcome.charge });
      if (this.collected.length >= WRITTEN_AT_ONCE) this.write();
      return;
    }
    const attempt = await Attempt.findByPk(of.attemptId, { rejectOnEmpty: true });
    // It was turned away by the gateway itself, so that it did nothing.
    if (outcome.kind === 'account' && outcome.didNothing) await noteUnsent(almanac, [of.attemptId]);
    await conclude(almanac, { attempt, account, outcome, on });
  }

  /** Waits until everything is written. */
  async end(): Promise<void> {
    this.write();
    while (this.writing.size > 0) await Promise.all(this.writing);
    if (this.failure !== null) throw this.failure;
  }

  private write(): void {
    const batch = this.collected;
    this.collected = [];
    if (batch.length === 0) return;
    const writing = writeCollected(this.almanac, batch, this.on)
      .catch((error: unknown) => {
        this.failure ??= error;
      })
      .finally(() => this.writing.delete(writing));
    this.writing.add(writing);
  }
}

function isPlain({ request }: Prepared, charge: SettledCharge): boolean {
  return (
    charge.state === 'collected' &&
    charge.amount === BigInt(request.amount) &&
    charge.currency === request.currency
  );
}

async function writeCollected(
  almanac: Almanac,
  batch: readonly { readonly of: Prepared; readonly charge: SettledCharge }[],
  on: string,
): Promise<void> {
  const left = await almanac.db.transaction(async (within) => {
    const charges = batch.map(({ of, charge }): CollectedCharge => ({
      attemptId: of.attemptId,
      code: charge.code,
      charge: charge.id,
    }));
    const settled = await settleCollected(almanac, charges, on, within);
    const ours = batch.filter(({ of }) => settled.has(of.attemptId)).map(({ of }) => of);
    const ids = await writePayments(
      almanac,
      ours.map(({ invoiceId, attemptId, request, currency }) => ({
        ...{ invoiceId, attemptId, currency },
        amount: BigInt(request.amount),
        paidOn: on,
      })),
      within,
    );
    await queueReceipts(
      almanac,
      ours.map((one, i) => ({
        ...one,
        paymentId: ids[i] ?? '',
        amount: BigInt(one.request.amount),
        invoice: one.number,
        card: { network: one.network, lastFour: one.lastFour },
        paidOn: on,
        statementText: one.request.statementText,
      })),
      within,
    );
    if (ours.length > 0 && (await anybodyToldAtOnce('payment collected', within))) {
      for (const one of ours) {
        const sum = sayAmount(BigInt(one.request.amount), one.currency);
        await tellStaff(
          almanac,
          {
            kind: 'payment collected',
            onceKey: `attempt:${one.attemptId}`,
            subject: `${one.customer}: ${sum} collected`,
            says: `${one.customer}, invoice ${one.number}: ${sum} collected.`,
            writtenOn: on,
          },
          within,
        );
      }
    }
    return batch.filter(({ of }) => !settled.has(of.attemptId));
  });
  // Somebody has settled it meanwhile, or it has come to be less plain than it was.
  for (const { charge } of left) await settleAttempt(almanac, charge, on);
}
