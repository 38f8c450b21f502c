import type { Transaction } from 'sequelize';
import { sentence, type Said } from '../../core/letters/said.ts';
import type { Almanac } from '../almanac.ts';
import { policyInForce } from './policies.ts';

/** So much of the cancellation terms stands in a letter, in characters; the rest is on the own page. */
const MOST_OF_POLICY = 2000;

/** The cancellation terms in force on a day, for a letter; nothing where there are none. */
export async function saidCancelling(almanac: Almanac, on: string, within?: Transaction): Promise<Said> {
  const text = (await policyInForce(almanac, 'cancellation', on, within))?.text ?? '';
  if (text.length <= MOST_OF_POLICY) return text;
  const from = text.slice(0, MOST_OF_POLICY).replace(/\s+\S*$/, '');
  return { all: [`${from} …`, sentence('whole on own page', {})], joined: ' ' };
}
