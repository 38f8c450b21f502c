import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { planSchema, rateSchema } from './messages.ts';
import { Rate } from './Rate.ts';

/** Refuses a picture or a document of a plan that was not uploaded as one. */
export async function requireShown(
  almanac: Almanac,
  { picture, documents }: Pick<z.output<typeof planSchema>, 'picture' | 'documents'>,
  under: string,
  within: Transaction,
): Promise<void> {
  const ids = [...(picture === null ? [] : [picture]), ...documents.map(({ upload }) => upload)];
  const uploads = await almanac.db.rows<{ id: string; kind: string }>(
    'select id::text, kind from uploads where id = any($ids::bigint[])',
    { ids },
    within,
  );
  const isThere = (id: string, kind: string) => uploads.some((one) => one.id === id && one.kind === kind);
  if (picture !== null && !isThere(picture, 'picture'))
    throw new RefusedCommand(422, 'This picture is not here. Choose it again.', `${under}/picture`);
  const missing = documents.findIndex(({ upload }) => !isThere(upload, 'document'));
  if (missing >= 0)
    throw new RefusedCommand(
      422,
      'This document is not here. Add it again.',
      `${under}/documents/${missing}`,
    );
}

/** Refuses a rate to be offered first that is none of the plan's. */
export async function requireRateOf(
  planId: string,
  rateId: string | null,
  within: Transaction,
): Promise<void> {
  if (rateId !== null && !(await Rate.findOne({ where: { id: rateId, planId }, transaction: within })))
    throw new RefusedCommand(422, 'Choose a rate of this plan.', '/value/firstRate');
}

/** Refuses a rate that names a tax or a gateway account that is not there. */
export async function requireNamed(
  almanac: Almanac,
  { taxChoice, options }: Pick<z.output<typeof rateSchema>, 'taxChoice' | 'options'>,
  under: string,
  within: Transaction,
): Promise<void> {
  const { taxThere, accounts } = (await almanac.db.row<{ taxThere: boolean; accounts: string[] }>(
    `select exists (select 1 from taxes where id = $tax) as "taxThere",
       array(select id::text from gateway_accounts where id = any($gateways::bigint[])) as accounts`,
    { tax: taxChoice.kind === 'tax' ? taxChoice.id : null, gateways: options.gateways },
    within,
  )) ?? { taxThere: false, accounts: [] };
  if (taxChoice.kind === 'tax' && !taxThere)
    throw new RefusedCommand(422, 'There is no such tax. Choose another.', `${under}/taxChoice`);
  if (options.gateways.some((id) => !accounts.includes(id)))
    throw new RefusedCommand(422, 'There is no such gateway account.', `${under}/options/gateways`);
}
