import type { Transaction } from 'sequelize';
import { toDay } from '../../core/dates/day.ts';
import { foresee, type Foreseen } from '../../core/forecast/foresee.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { taxedAtOnce } from '../invoices/wholeOf.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { lockForeseeable, storeForeseen, type Foreseeable, type ToStore } from './foresight.sql.ts';

/** So many are foreseen together. */
export const FORESEEN_TOGETHER = 500;

/** Nothing is to come of it any more. */
const NOTHING: Foreseen = { next: null, charges: [], monthly: 0n, again: null };

/**
 * What is to come of a subscription as it stands. What has lapsed is charged no more; of what has ended, only amounts that
 * were agreed to for later days are.
 */
export function foreseenOf(
  { state, wakeOn, walk, invoicing }: Pick<Foreseeable, 'state' | 'wakeOn' | 'walk' | 'invoicing'>,
  terms: CompiledTerms,
  businessDate: string,
): Foreseen {
  if (state === 'lapsed' || (state === 'ended' && wakeOn === null)) return NOTHING;
  const taxed = invoicing === 'whole' ? taxedAtOnce(terms) : terms;
  return foresee(taxed, walk ?? undefined, toDay(businessDate));
}

/**
 * Foresees some subscriptions anew and stores what that comes to, in the transaction of what altered them.
 * @returns those whose terms cannot be read, where they are to be passed over; otherwise one of them stops all
 */
export async function foreseeAnew(
  almanac: Almanac,
  ids: readonly string[],
  within: Transaction,
  { passesOver = false }: { readonly passesOver?: boolean } = {},
): Promise<string[]> {
  const bad: string[] = [];
  if (ids.length === 0) return bad;
  const businessDate = await businessDateOf(almanac, within);
  const law = await loadLaw(almanac, within);
  for (let at = 0; at < ids.length; at += FORESEEN_TOGETHER) {
    const some = await lockForeseeable(almanac, ids.slice(at, at + FORESEEN_TOGETHER), within);
    const rows = some.flatMap((one): ToStore[] => {
      try {
        const foreseen = foreseenOf(one, law.compile(one), businessDate);
        return [{ id: one.id, currency: one.terms.currency, foreseen }];
      } catch (error) {
        if (!passesOver) throw error;
        bad.push(one.id);
        return [];
      }
    });
    await storeForeseen(almanac, rows, within);
  }
  return bad;
}
